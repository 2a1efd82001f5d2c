import { relations, sql } from 'drizzle-orm';
import {
  bigint,
  boolean,
  check,
  date,
  foreignKey,
  index,
  integer,
  jsonb,
  numeric,
  pgTable,
  primaryKey,
  text,
  timestamp,
  uniqueIndex,
  customType,
} from 'drizzle-orm/pg-core';

const tsvector = customType<{ data: string }>({ dataType: () => 'tsvector' });
const id = () => bigint({ mode: 'number' }).primaryKey().generatedAlwaysAsIdentity();
const ref = () => bigint({ mode: 'number' });
const moment = () => timestamp({ withTimezone: true, mode: 'date' });

/** One row: the installation. */
export const workspace = pgTable(
  'workspace',
  {
    id: integer().primaryKey().default(1),
    name: text().notNull(),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [check('workspace_is_one', sql`${t.id} = 1`)],
);

export const users = pgTable(
  'users',
  {
    id: id(),
    email: text().notNull(),
    name: text().notNull(),
    role: text().notNull(),
    passwordHash: text('password_hash'),
    active: boolean().notNull().default(true),
    lastVisitAt: moment(),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [
    uniqueIndex('users_email_once').on(sql`lower(${t.email})`),
    check('users_role_known', sql`${t.role} in ('admin', 'lead', 'rep', 'viewer')`),
  ],
);

export const accessTokens = pgTable('access_tokens', {
  id: id(),
  userId: ref()
    .notNull()
    .references(() => users.id, { onDelete: 'cascade' }),
  name: text().notNull(),
  tokenHash: text().notNull().unique('access_tokens_hash_once'),
  createdAt: moment().notNull().defaultNow(),
  lastUsedAt: moment(),
  revokedAt: moment(),
});

export const mailboxes = pgTable(
  'mailboxes',
  {
    id: id(),
    address: text().notNull().unique('mailboxes_address_once'),
    ownerId: ref()
      .notNull()
      .references(() => users.id),
    kind: text().notNull().default('imported'),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [check('mailboxes_kind_known', sql`${t.kind} in ('imported')`)],
);

export const blobs = pgTable('blobs', {
  sha256: text().primaryKey(),
  pack: text().notNull(),
  position: bigint({ mode: 'number' }).notNull(),
  length: integer().notNull(),
  size: integer().notNull(),
});

/** One email, however many mailboxes hold it. Facts only: what it says stands in email_contents. */
export const emails = pgTable(
  'emails',
  {
    id: id(),
    identity: text().notNull().unique('emails_identity_once'),
    messageId: text(),
    references: text().array().notNull(),
    familyId: ref().notNull(),
    conversationId: ref().notNull(),
    subjectParentId: ref(),
    isForward: boolean().notNull(),
    sentAt: moment().notNull(),
    dateSource: text().notNull(),
    arrivedAt: moment().notNull(),
    size: integer().notNull(),
    blob: text().references(() => blobs.sha256),
    mailClass: text().notNull(),
    classHeader: text(),
    classValue: text(),
    problems: jsonb().$type<{ code: string; message: string }[]>().notNull(),
    ownerIds: bigint({ mode: 'number' }).array().notNull(),
    direction: text(),
    outcome: text(),
    visibility: text().notNull().default('owner'),
    externalDomains: text()
      .array()
      .notNull()
      .default(sql`'{}'`),
    stops: jsonb().$type<unknown[]>(),
    rulebookVersion: integer(),
    decidedAt: moment(),
  },
  (t) => [
    index('emails_by_time').on(t.sentAt.desc(), t.id.desc()),
    index('emails_by_conversation').on(t.conversationId),
    index('emails_by_family').on(t.familyId),
    index('emails_by_external_domain').using('gin', t.externalDomains),
    index('emails_undecided')
      .on(t.id)
      .where(sql`${t.decidedAt} is null`),
    check('emails_outcome_known', sql`${t.outcome} in ('filed', 'waiting', 'loose', 'kept out', 'sealed')`),
    check('emails_visibility_known', sql`${t.visibility} in ('owner', 'everyone')`),
    check('emails_direction_known', sql`${t.direction} in ('sent', 'received', 'internal')`),
  ],
);

/** What an email says. A kept-out email has no row here. */
export const emailContents = pgTable(
  'email_contents',
  {
    emailId: ref()
      .primaryKey()
      .references(() => emails.id, { onDelete: 'cascade' }),
    subject: text().notNull(),
    baseSubject: text().notNull(),
    subjectKey: text().notNull(),
    preview: text().notNull(),
    body: text().notNull(),
    hasHtml: boolean().notNull(),
    attachmentCount: integer().notNull(),
    search: tsvector().notNull(),
  },
  (t) => [
    index('email_contents_by_text').using('gin', t.search),
    index('email_contents_by_subject')
      .on(t.subjectKey)
      .where(sql`${t.subjectKey} <> ''`),
  ],
);

/** How an email was decided, with the evidence. A kept-out email has no row here; its emails.stops name no person. */
export const dockets = pgTable('dockets', {
  emailId: ref()
    .primaryKey()
    .references(() => emails.id, { onDelete: 'cascade' }),
  docket: jsonb().$type<unknown[]>().notNull(),
  questions: jsonb().$type<unknown[]>().notNull(),
});

export const participants = pgTable(
  'participants',
  {
    emailId: ref()
      .notNull()
      .references(() => emails.id, { onDelete: 'cascade' }),
    role: text().notNull(),
    position: integer().notNull(),
    address: text().notNull(),
    domain: text().notNull(),
    name: text().notNull(),
  },
  (t) => [primaryKey({ columns: [t.emailId, t.role, t.address] }), index('participants_by_address').on(t.address, t.emailId)],
);

export const attachments = pgTable(
  'attachments',
  {
    emailId: ref()
      .notNull()
      .references(() => emails.id, { onDelete: 'cascade' }),
    position: integer().notNull(),
    name: text().notNull(),
    type: text().notNull(),
    size: integer().notNull(),
    contentId: text(),
    inline: boolean().notNull(),
  },
  (t) => [primaryKey({ columns: [t.emailId, t.position] })],
);

export const sightings = pgTable(
  'sightings',
  {
    emailId: ref()
      .notNull()
      .references(() => emails.id, { onDelete: 'cascade' }),
    mailboxId: ref()
      .notNull()
      .references(() => mailboxes.id),
    folder: text().notNull(),
    importId: ref().notNull(),
    seenAt: moment().notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.emailId, t.mailboxId, t.folder] }), index('sightings_by_mailbox').on(t.mailboxId, t.emailId)],
);

/** Every Message-ID seen or referred to, and the family of emails that refer to each other. */
export const threadIds = pgTable(
  'thread_ids',
  {
    messageId: text().primaryKey(),
    familyId: ref().notNull(),
  },
  (t) => [index('thread_ids_by_family').on(t.familyId)],
);

export const accounts = pgTable(
  'accounts',
  {
    id: id(),
    name: text().notNull(),
    type: text().notNull().default(''),
    parentId: ref(),
    ownerId: ref().references(() => users.id),
    originEmailId: ref(),
    originRule: text(),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [
    uniqueIndex('accounts_name_once').on(sql`lower(${t.name})`),
    foreignKey({ columns: [t.parentId], foreignColumns: [t.id] }).onDelete('set null'),
  ],
);

export const accountDomains = pgTable(
  'account_domains',
  {
    accountId: ref()
      .notNull()
      .references(() => accounts.id, { onDelete: 'cascade' }),
    domain: text().notNull(),
  },
  (t) => [primaryKey({ columns: [t.accountId, t.domain] }), index('account_domains_by_domain').on(t.domain)],
);

export const contacts = pgTable(
  'contacts',
  {
    id: id(),
    name: text().notNull(),
    nameConfidence: numeric({ mode: 'number' }).notNull().default(1),
    accountId: ref().references(() => accounts.id, { onDelete: 'set null' }),
    title: text().notNull().default(''),
    phone: text().notNull().default(''),
    ownerId: ref().references(() => users.id),
    originEmailId: ref(),
    originRule: text(),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [index('contacts_by_account').on(t.accountId)],
);

export const leads = pgTable('leads', {
  id: id(),
  name: text().notNull(),
  nameConfidence: numeric({ mode: 'number' }).notNull().default(1),
  company: text().notNull().default(''),
  status: text().notNull().default(''),
  ownerId: ref().references(() => users.id),
  originEmailId: ref(),
  originRule: text(),
  createdAt: moment().notNull().defaultNow(),
});

/** Addresses of contacts and leads; an address belongs to one contact and one lead at the most. */
export const personAddresses = pgTable(
  'person_addresses',
  {
    kind: text().notNull(),
    personId: ref().notNull(),
    /** Comparable form. */
    address: text().notNull(),
    position: integer().notNull().default(0),
  },
  (t) => [
    primaryKey({ columns: [t.kind, t.address] }),
    index('person_addresses_by_person').on(t.kind, t.personId),
    check('person_addresses_kind_known', sql`${t.kind} in ('contact', 'lead')`),
  ],
);

export const deals = pgTable(
  'deals',
  {
    id: id(),
    name: text().notNull(),
    code: text(),
    accountId: ref().references(() => accounts.id, { onDelete: 'set null' }),
    ownerId: ref().references(() => users.id),
    stage: text().notNull().default(''),
    open: boolean().notNull().default(true),
    amount: numeric({ mode: 'number' }),
    currency: text().notNull().default(''),
    closedOn: date({ mode: 'string' }),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [uniqueIndex('deals_code_once').on(sql`upper(${t.code})`), index('deals_by_account').on(t.accountId)],
);

export const dealPeople = pgTable(
  'deal_people',
  {
    dealId: ref()
      .notNull()
      .references(() => deals.id, { onDelete: 'cascade' }),
    kind: text().notNull(),
    personId: ref().notNull(),
  },
  (t) => [primaryKey({ columns: [t.dealId, t.kind, t.personId] }), index('deal_people_by_person').on(t.kind, t.personId)],
);

export const filings = pgTable(
  'filings',
  {
    emailId: ref()
      .notNull()
      .references(() => emails.id, { onDelete: 'cascade' }),
    kind: text().notNull(),
    recordId: ref().notNull(),
    rule: text().notNull(),
    created: boolean().notNull().default(false),
  },
  (t) => [
    primaryKey({ columns: [t.emailId, t.kind, t.recordId] }),
    index('filings_by_record').on(t.kind, t.recordId, t.emailId),
    check('filings_kind_known', sql`${t.kind} in ('contact', 'lead', 'account', 'deal')`),
  ],
);

export const rulebooks = pgTable('rulebooks', {
  version: integer().primaryKey(),
  document: jsonb().$type<unknown>().notNull(),
  summary: text().notNull(),
  createdBy: ref().references(() => users.id),
  createdAt: moment().notNull().defaultNow(),
});

/** A keep-out that can be taken back as one step. */
export const undoSteps = pgTable('undo_steps', {
  id: id(),
  userId: ref()
    .notNull()
    .references(() => users.id),
  summary: text().notNull(),
  entryId: text().notNull(),
  createdAt: moment().notNull().defaultNow(),
  undoneAt: moment(),
});

export const imports = pgTable(
  'imports',
  {
    id: id(),
    mailboxId: ref()
      .notNull()
      .references(() => mailboxes.id),
    userId: ref()
      .notNull()
      .references(() => users.id),
    fileNames: text()
      .array()
      .notNull()
      .default(sql`'{}'`),
    totalBytes: bigint({ mode: 'number' }).notNull().default(0),
    state: text().notNull().default('open'),
    phase: text().notNull().default('reading'),
    readBytes: bigint({ mode: 'number' }).notNull().default(0),
    counts: jsonb().$type<Record<string, number>>().notNull().default({}),
    message: text().notNull().default(''),
    cancelAsked: boolean().notNull().default(false),
    createdAt: moment().notNull().defaultNow(),
    startedAt: moment(),
    finishedAt: moment(),
  },
  (t) => [
    index('imports_by_time').on(t.createdAt.desc()),
    check('imports_state_known', sql`${t.state} in ('open', 'queued', 'running', 'done', 'cancelled', 'failed')`),
  ],
);

/** A run over stored mail with the rulebook in force. */
export const decideRuns = pgTable(
  'decide_runs',
  {
    id: id(),
    userId: ref()
      .notNull()
      .references(() => users.id),
    state: text().notNull().default('queued'),
    done: integer().notNull().default(0),
    total: integer().notNull().default(0),
    changed: integer().notNull().default(0),
    message: text().notNull().default(''),
    cancelAsked: boolean().notNull().default(false),
    createdAt: moment().notNull().defaultNow(),
    finishedAt: moment(),
  },
  (t) => [check('decide_runs_state_known', sql`${t.state} in ('queued', 'running', 'done', 'cancelled', 'failed')`)],
);

/** What became of each message of an import. */
export const importItems = pgTable(
  'import_items',
  {
    importId: ref()
      .notNull()
      .references(() => imports.id, { onDelete: 'cascade' }),
    position: integer().notNull(),
    file: text().notNull(),
    result: text().notNull(),
    emailId: ref(),
    problems: jsonb().$type<{ code: string; message: string }[]>().notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.importId, t.position] }),
    check('import_items_result_known', sql`${t.result} in ('new', 'other sighting', 'known', 'unreadable')`),
  ],
);

export const emailRelations = relations(emails, ({ one }) => ({
  content: one(emailContents, { fields: [emails.id], references: [emailContents.emailId] }),
}));
