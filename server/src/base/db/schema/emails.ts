import { relations, sql } from 'drizzle-orm';
import { bigint, boolean, check, index, integer, jsonb, pgTable, primaryKey, text, uniqueIndex } from 'drizzle-orm/pg-core';
import { id, moment, ref, tsvector } from './columns';

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
    /** How the identity was computed: 1 without what the email says, 2 with it. */
    identityVersion: integer().notNull().default(1),
    messageId: text(),
    references: text().array().notNull(),
    familyId: ref().notNull(),
    conversationId: ref().notNull(),
    subjectParentId: ref(),
    isReply: boolean().notNull().default(false),
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
    sensitivity: text(),
    /** What the server that received it found about its sender. */
    senderCheck: text().notNull().default('none'),
    /** Where it was sent on: the author that it names is believed. */
    authorTrusted: boolean().notNull().default(false),
    ownerIds: bigint({ mode: 'number' }).array().notNull(),
    /** Colleagues whom an owner lets read it. Kept by triggers from grants, filings and owners; nothing else writes it. */
    grantedIds: bigint({ mode: 'number' })
      .array()
      .notNull()
      .default(sql`'{}'`),
    direction: text(),
    outcome: text(),
    visibility: text().notNull().default('owner'),
    /** Names of the teams that see it, in small letters, for that level. */
    sharedTeams: text()
      .array()
      .notNull()
      .default(sql`'{}'`),
    /** Whoever sees it by its level, sees only that it exists. */
    existenceOnly: boolean().notNull().default(false),
    externalDomains: text()
      .array()
      .notNull()
      .default(sql`'{}'`),
    steps: jsonb().$type<unknown[]>(),
    rulebookVersion: integer(),
    decidedAt: moment(),
  },
  (t) => [
    index('emails_by_time').on(t.sentAt, t.id),
    // Emails whose identity was computed in the former way; none where nothing was upgraded.
    index('emails_of_former_identity')
      .on(t.identity)
      .where(sql`${t.identityVersion} = 1`),
    index('emails_by_conversation').on(t.conversationId),
    index('emails_by_family').on(t.familyId),
    index('emails_by_message_id').on(t.messageId),
    index('emails_by_decision').on(t.decidedAt),
    index('emails_by_external_domain').using('gin', t.externalDomains),
    index('emails_damaged')
      .on(t.id)
      .where(sql`${t.problems} @> '[{"code":"damaged"}]'`),
    index('emails_with_problems')
      .on(t.id)
      .where(sql`${t.problems} <> '[]'::jsonb`),
    index('emails_sealed')
      .on(t.id)
      .where(sql`${t.outcome} = 'sealed'`),
    index('emails_waiting')
      .on(t.sentAt, t.id)
      .where(sql`${t.outcome} = 'waiting'`),
    index('emails_undecided')
      .on(t.id)
      .where(sql`${t.decidedAt} is null`),
    check('emails_outcome_known', sql`${t.outcome} in ('filed', 'waiting', 'unfiled', 'kept out', 'sealed')`),
    check('emails_sender_check_known', sql`${t.senderCheck} in ('passed', 'failed', 'none')`),
    check('emails_visibility_known', sql`${t.visibility} in ('owner', 'record', 'teams', 'everyone')`),
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
    preview: text().notNull(),
    body: text().notNull(),
    hasHtml: boolean().notNull(),
    attachmentCount: integer().notNull(),
    search: tsvector().notNull(),
    /** Words of what the sender wrote that may be reference codes, in capitals. */
    codes: text()
      .array()
      .notNull()
      .default(sql`'{}'`),
    /** Which words follow each other in what the sender wrote: a code for each two. */
    wordPairs: text().notNull().default(''),
    /** Which version of reading the codes and pairs are from. */
    reading: integer().notNull().default(0),
  },
  (t) => [index('email_contents_by_text').using('gin', t.search)],
);

/** The external domains of all mail, kept by a trigger; so those under a domain are found. No member reads it by itself. */
export const seenDomains = pgTable('seen_domains', { domain: text().primaryKey() }, (t) => [
  index('seen_domains_from_the_end').on(sql`reverse(${t.domain}) text_pattern_ops`),
]);

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

/**
 * The addresses of all mail, kept by triggers: whether mail came from each and went to it, and whether a record has it. So the few with
 * whom mail went both ways and who are in no record are found. No member reads it by itself.
 */
export const correspondents = pgTable(
  'correspondents',
  {
    address: text().primaryKey(),
    wrote: boolean().notNull(),
    wasWritten: boolean().notNull(),
    isKnown: boolean().notNull(),
  },
  (t) => [
    index('correspondents_unknown')
      .on(t.address)
      .where(sql`${t.wrote} AND ${t.wasWritten} AND NOT ${t.isKnown}`),
  ],
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

/** Meetings that emails invite to, change or cancel; of an event of a calendar, the event itself. */
export const meetings = pgTable(
  'meetings',
  {
    emailId: ref()
      .notNull()
      .references(() => emails.id, { onDelete: 'cascade' }),
    uid: text().notNull(),
    /** Which occurrence of a recurring meeting: when it was to begin at first. */
    occursAt: moment(),
    sequence: integer().notNull(),
    cancelled: boolean().notNull(),
    startsAt: moment().notNull(),
    endsAt: moment().notNull(),
    wholeDay: boolean().notNull().default(false),
    summary: text().notNull(),
    location: text().notNull(),
    /** What guests answered, by their addresses. */
    answers: jsonb()
      .$type<Record<string, string>>()
      .notNull()
      .default(sql`'{}'`),
  },
  (t) => [primaryKey({ columns: [t.emailId, t.uid] }), index('meetings_by_time').on(t.startsAt), index('meetings_by_uid').on(t.uid)],
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

/** The key of the hashes in thread_hashes. */
export const threadKeys = pgTable('thread_keys', { key: text().primaryKey() });

/**
 * What else than ids decides the conversation of an email, as keyed hashes that only the worker sees: of its subject, and of the external people in
 * From, To and Cc. They stay when the email is kept out and what it says is not kept.
 */
export const threadHashes = pgTable(
  'thread_hashes',
  {
    emailId: ref()
      .primaryKey()
      .references(() => emails.id, { onDelete: 'cascade' }),
    /** As the email has it: emails of one subject are looked for within some days. */
    sentAt: moment().notNull(),
    /** An empty string where there is no subject. */
    subject: text().notNull(),
    people: text().array().notNull(),
    /** Those of them who are in copy. */
    copied: text().array().notNull(),
  },
  (t) => [
    index('thread_hashes_by_subject_and_time')
      .on(t.subject, t.sentAt)
      .where(sql`${t.subject} <> ''`),
  ],
);

/**
 * Addresses of which a delivery report says that they do not exist, as keyed hashes that only the worker sees: reports are often kept out, and
 * nothing of what they say is kept.
 */
export const deliveryFailures = pgTable(
  'delivery_failures',
  {
    emailId: ref()
      .notNull()
      .references(() => emails.id, { onDelete: 'cascade' }),
    person: text().notNull(),
    /** Message-ID of the email that could not be delivered. */
    reportedId: text().notNull(),
  },
  (t) => [primaryKey({ columns: [t.emailId, t.person] }), index('delivery_failures_by_person').on(t.person)],
);

export const emailRelations = relations(emails, ({ one }) => ({
  content: one(emailContents, { fields: [emails.id], references: [emailContents.emailId] }),
}));

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
    /** False for an address used by someone who is not on the team. */
    trusted: boolean().notNull(),
    at: moment().notNull().defaultNow(),
  },
  (t) => [uniqueIndex('gestures_once').on(t.emailId, t.via, t.detail), check('gestures_via_known', sql`${t.via} in ('address', 'folder')`)],
);
