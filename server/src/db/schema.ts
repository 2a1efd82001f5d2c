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
    state: text().notNull().default('imported'),
    /** Further addresses of the same person or team, in comparable form. */
    aliases: text()
      .array()
      .notNull()
      .default(sql`'{}'`),
    /** Servers, way of signing in, name to sign in with. The secret lies in mailbox_secrets. */
    connection: jsonb().$type<unknown>(),
    direction: text().notNull().default('both'),
    /** How far back mail is read; null for all of it. */
    readSince: moment(),
    /** owner: its mail is seen by those who use it only. rules: as the rulebook says. */
    share: text().notNull().default('rules'),
    /** A keyword marks filed emails in the mailbox itself. */
    markFiled: boolean().notNull().default(false),
    problem: jsonb().$type<unknown>(),
    /** Emails a second that the connection gave when it was tried. */
    fetchRate: numeric({ mode: 'number' }),
    lastContactAt: moment(),
    lastMailAt: moment(),
    /** Last measured time from arrival at the server until filed. */
    delayMs: integer(),
    backlog: integer().notNull().default(0),
    /** Raised by every change that a running turn has to know of. */
    revision: integer().notNull().default(0),
    leaseHolder: text(),
    leaseUntil: moment(),
    leaseJob: text(),
    startedAt: moment(),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [
    check('mailboxes_kind_known', sql`${t.kind} in ('imported', 'person', 'shared', 'filing')`),
    check('mailboxes_state_known', sql`${t.state} in ('imported', 'connecting', 'running', 'paused', 'stopped', 'closed')`),
    check('mailboxes_direction_known', sql`${t.direction} in ('both', 'sent', 'received')`),
    check('mailboxes_share_known', sql`${t.share} in ('owner', 'rules')`),
  ],
);

const ofMailbox = () =>
  ref()
    .notNull()
    .references(() => mailboxes.id, { onDelete: 'cascade' });

/** Passwords and tokens, sealed by a key that is not in the database. */
export const mailboxSecrets = pgTable('mailbox_secrets', {
  mailboxId: ofMailbox().primaryKey(),
  sealed: text().notNull(),
  changedAt: moment().notNull().defaultNow(),
});

/** Who may use a shared address, beside its owner. */
export const mailboxUsers = pgTable(
  'mailbox_users',
  {
    mailboxId: ofMailbox(),
    userId: ref()
      .notNull()
      .references(() => users.id, { onDelete: 'cascade' }),
  },
  (t) => [primaryKey({ columns: [t.mailboxId, t.userId] })],
);

export const mailboxChecks = pgTable(
  'mailbox_checks',
  {
    mailboxId: ofMailbox(),
    step: text().notNull(),
    state: text().notNull(),
    message: text().notNull().default(''),
    remedy: text().notNull().default(''),
    said: text().notNull().default(''),
    code: text(),
    ms: integer(),
    at: moment().notNull().defaultNow(),
  },
  (t) => [
    primaryKey({ columns: [t.mailboxId, t.step] }),
    check('mailbox_checks_state_known', sql`${t.state} in ('waiting', 'running', 'passed', 'failed')`),
  ],
);

export const mailboxFolders = pgTable(
  'mailbox_folders',
  {
    id: id(),
    mailboxId: ofMailbox(),
    path: text().notNull(),
    role: text().notNull(),
    followed: boolean().notNull().default(false),
    uidValidity: bigint({ mode: 'number' }),
    /** Emails in it that are not read yet. */
    pending: integer().notNull().default(0),
    total: integer().notNull().default(0),
    /** What moving an email here means: null nothing, 'rules' to take it in, else the record that it is filed under. */
    fileAs: text(),
    fileRecordId: ref(),
    /** False when the folder was not there at the last look. */
    present: boolean().notNull().default(true),
  },
  (t) => [
    uniqueIndex('mailbox_folders_path_once').on(t.mailboxId, t.path),
    check('mailbox_folders_file_as_known', sql`${t.fileAs} in ('rules', 'account', 'lead', 'deal', 'contact')`),
  ],
);

/** Every message number that was dealt with: what it is stored as, and whether it is still there. */
export const folderMessages = pgTable(
  'folder_messages',
  {
    folderId: ref()
      .notNull()
      .references(() => mailboxFolders.id, { onDelete: 'cascade' }),
    uidValidity: bigint({ mode: 'number' }).notNull(),
    uid: bigint({ mode: 'number' }).notNull(),
    /** Null for one that was passed over or could not be read; see `note`. */
    emailId: ref().references(() => emails.id, { onDelete: 'cascade' }),
    note: text().notNull().default(''),
    tries: integer().notNull().default(1),
    marked: boolean().notNull().default(false),
    goneAt: moment(),
  },
  (t) => [primaryKey({ columns: [t.folderId, t.uidValidity, t.uid] }), index('folder_messages_by_email').on(t.emailId)],
);

export const mailboxEvents = pgTable(
  'mailbox_events',
  {
    id: id(),
    mailboxId: ofMailbox(),
    at: moment().notNull().defaultNow(),
    level: text().notNull(),
    message: text().notNull(),
    said: text().notNull().default(''),
  },
  (t) => [
    index('mailbox_events_by_time').on(t.mailboxId, t.id.desc()),
    check('mailbox_events_level_known', sql`${t.level} in ('note', 'problem', 'mended')`),
  ],
);

/** A sign-in at a provider that was begun and has not come back yet. */
export const signInStates = pgTable('sign_in_states', {
  stateHash: text().primaryKey(),
  mailboxId: ofMailbox(),
  userId: ref().notNull(),
  verifier: text().notNull(),
  returnUrl: text().notNull(),
  createdAt: moment().notNull().defaultNow(),
});

/** A person's word by what they did with an email in their mail program: a filing address, or a folder that stands for a record. */
export const gestures = pgTable(
  'gestures',
  {
    id: id(),
    emailId: ref()
      .notNull()
      .references(() => emails.id, { onDelete: 'cascade' }),
    via: text().notNull(),
    /** The record's kind, 'rules' for "file this by the rules", null for a filing address that no record has. */
    target: text(),
    recordId: ref(),
    /** As written: the address, or mailbox and folder. */
    detail: text().notNull(),
    userId: ref(),
    /** False for an address used by somebody who is not on the team. */
    trusted: boolean().notNull(),
    at: moment().notNull().defaultNow(),
  },
  (t) => [uniqueIndex('gestures_once').on(t.emailId, t.via, t.detail), check('gestures_via_known', sql`${t.via} in ('address', 'folder')`)],
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
    importId: ref(),
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
    /** Part of the record's filing address; short, and not to be guessed. */
    filingCode: text()
      .notNull()
      .default(sql`substr(replace(gen_random_uuid()::text, '-', ''), 1, 12)`),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [
    uniqueIndex('accounts_filing_code_once').on(t.filingCode),
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

export const leads = pgTable(
  'leads',
  {
    id: id(),
    name: text().notNull(),
    nameConfidence: numeric({ mode: 'number' }).notNull().default(1),
    company: text().notNull().default(''),
    status: text().notNull().default(''),
    ownerId: ref().references(() => users.id),
    originEmailId: ref(),
    originRule: text(),
    /** Part of the record's filing address; short, and not to be guessed. */
    filingCode: text()
      .notNull()
      .default(sql`substr(replace(gen_random_uuid()::text, '-', ''), 1, 12)`),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [uniqueIndex('leads_filing_code_once').on(t.filingCode)],
);

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
    /** Part of the record's filing address; short, and not to be guessed. */
    filingCode: text()
      .notNull()
      .default(sql`substr(replace(gen_random_uuid()::text, '-', ''), 1, 12)`),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [
    uniqueIndex('deals_filing_code_once').on(t.filingCode),
    uniqueIndex('deals_code_once').on(sql`upper(${t.code})`),
    index('deals_by_account').on(t.accountId),
  ],
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
