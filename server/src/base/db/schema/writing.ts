import { sql } from 'drizzle-orm';
import { boolean, check, index, integer, jsonb, pgTable, primaryKey, text } from 'drizzle-orm/pg-core';
import { bytea, id, moment, ref } from './columns';
import { emails } from './emails';
import { mailboxes } from './mailboxes';
import { teams, users } from './team';

interface PersonOfEmail {
  name: string;
  address: string;
}

/** Texts that members put into emails: templates with a subject, short text blocks, articles that are kept up to date. */
export const templates = pgTable(
  'templates',
  {
    id: id(),
    kind: text().notNull(),
    ownerId: ref()
      .notNull()
      .references(() => users.id),
    scope: text().notNull().default('own'),
    teamId: ref().references(() => teams.id, { onDelete: 'set null' }),
    folder: text().notNull().default(''),
    name: text().notNull(),
    /** A language tag such as `de` (BCP 47); empty: any. */
    language: text().notNull().default(''),
    /** What stands for a text block while typing. */
    shortcut: text().notNull().default(''),
    subject: text().notNull().default(''),
    html: text().notNull().default(''),
    /** Words of name, subject and text, by which articles are found. */
    words: text().notNull().default(''),
    /** Only what is published is found and put in. */
    state: text().notNull().default('published'),
    revision: integer().notNull().default(0),
    removedAt: moment(),
    createdAt: moment().notNull().defaultNow(),
    changedAt: moment().notNull().defaultNow(),
  },
  (t) => [
    index('templates_by_owner').on(t.ownerId),
    check('templates_kind_known', sql`${t.kind} in ('template', 'block', 'article')`),
    check('templates_scope_known', sql`${t.scope} in ('own', 'team', 'all')`),
    check('templates_state_known', sql`${t.state} in ('draft', 'published', 'outdated')`),
  ],
);

/** Emails that were sent with a template. */
export const templateUses = pgTable(
  'template_uses',
  {
    templateId: ref()
      .notNull()
      .references(() => templates.id, { onDelete: 'cascade' }),
    emailId: ref()
      .notNull()
      .references(() => emails.id, { onDelete: 'cascade' }),
  },
  (t) => [primaryKey({ name: 'template_uses_once', columns: [t.templateId, t.emailId] }), index('template_uses_by_email').on(t.emailId)],
);

/** Emails that members write here, until they are sent and filed like any other. Each is seen by its writer alone. */
export const outgoing = pgTable(
  'outgoing',
  {
    id: id(),
    writerId: ref()
      .notNull()
      .references(() => users.id),
    mailboxId: ref()
      .notNull()
      .references(() => mailboxes.id),
    kind: text().notNull(),
    state: text().notNull().default('draft'),
    /** Raised by every change of its writer. */
    revision: integer().notNull().default(0),
    to: jsonb().$type<PersonOfEmail[]>().notNull().default([]),
    cc: jsonb().$type<PersonOfEmail[]>().notNull().default([]),
    bcc: jsonb().$type<PersonOfEmail[]>().notNull().default([]),
    subject: text().notNull().default(''),
    html: text().notNull().default(''),
    /** What is quoted of the answered email, as HTML; sent along below the text where its writer keeps it. */
    quote: text().notNull().default(''),
    withQuote: boolean().notNull().default(true),
    /** An alias of the mailbox that it is sent as; null: the address of the mailbox. */
    fromAddress: text(),
    withSignature: boolean().notNull().default(true),
    /** Its writer wants to know whether it was opened. */
    measured: boolean().notNull().default(false),
    /** As the mail server gets it, where that is not what its writer keeps: with what counts openings. */
    wire: bytea(),
    /** Where its recipient unsubscribes; of emails to many. */
    unsubscribe: text(),
    /** The invitation in it, as a calendar object with its method (RFC 6047). */
    calendar: text(),
    /** The template that was put in last. */
    templateId: ref().references(() => templates.id, { onDelete: 'set null' }),
    filingHow: text().notNull().default('rules'),
    filingRecords: jsonb().$type<{ kind: string; id: number }[]>().notNull().default([]),
    /** The email that it answers or forwards. */
    answersId: ref().references(() => emails.id, { onDelete: 'set null' }),
    inReplyTo: text(),
    references: text()
      .array()
      .notNull()
      .default(sql`'{}'`),
    /** Fixed before it is handed over the first time. */
    messageId: text().unique('outgoing_message_id_once'),
    dueAt: moment(),
    /** The process that hands it over, and until when it may be taken for alive. */
    holder: text(),
    leaseUntil: moment(),
    tries: integer().notNull().default(0),
    /** As it is handed over, blind copies included; kept until its copies are in place. */
    source: bytea(),
    /** Set before the first byte of the email itself goes out. */
    contentBegun: boolean().notNull().default(false),
    /** What the mail server answered to the whole email, stored before anything else is done. */
    response: text(),
    problem: text().notNull().default(''),
    sentAt: moment(),
    /** Its writer is reminded when no one has answered for so many days; null: never. */
    remindDays: integer(),
    /** A copy is in the sent folder of the mailbox. */
    copied: boolean().notNull().default(false),
    /** The email as it is filed. */
    emailId: ref().references(() => emails.id, { onDelete: 'cascade' }),
    createdAt: moment().notNull().defaultNow(),
    changedAt: moment().notNull().defaultNow(),
  },
  (t) => [
    index('outgoing_by_writer').on(t.writerId, t.changedAt),
    index('outgoing_to_do')
      .on(t.dueAt)
      .where(sql`${t.state} in ('due', 'handing over') or (${t.state} = 'sent' and ${t.source} is not null)`),
    index('outgoing_by_answered').on(t.answersId),
    index('outgoing_by_email').on(t.emailId),
    check('outgoing_kind_known', sql`${t.kind} in ('new', 'answer', 'answer all', 'forward')`),
    check('outgoing_state_known', sql`${t.state} in ('draft', 'due', 'handing over', 'sent', 'refused', 'bounced', 'unclear')`),
    check('outgoing_filing_known', sql`${t.filingHow} in ('rules', 'records', 'none')`),
    check('outgoing_sent_has_id', sql`${t.state} not in ('handing over', 'sent', 'bounced', 'unclear') or ${t.messageId} is not null`),
  ],
);

/** Files that go along with an email that is written here. */
export const outgoingFiles = pgTable(
  'outgoing_files',
  {
    id: id(),
    outgoingId: ref()
      .notNull()
      .references(() => outgoing.id, { onDelete: 'cascade' }),
    name: text().notNull(),
    type: text().notNull(),
    size: integer().notNull(),
    /** It is a picture in the text, not beside it. */
    inline: boolean().notNull().default(false),
    content: bytea().notNull(),
  },
  (t) => [index('outgoing_files_of').on(t.outgoingId)],
);

/** How a member sends from an address: under which name, with which signature, and whether the member has proven to read what is sent to it. */
export const senders = pgTable(
  'senders',
  {
    userId: ref()
      .notNull()
      .references(() => users.id, { onDelete: 'cascade' }),
    mailboxId: ref()
      .notNull()
      .references(() => mailboxes.id, { onDelete: 'cascade' }),
    /** In comparable form: the mailbox itself, or an alias of it. */
    address: text().notNull(),
    /** Empty: that of the member. */
    name: text().notNull().default(''),
    /** HTML with merge fields of the sender. */
    signature: text().notNull().default(''),
    /** When the code that was sent to an alias was confirmed. */
    provenAt: moment(),
    codeHash: text(),
    codeSentAt: moment(),
    codeTries: integer().notNull().default(0),
  },
  (t) => [primaryKey({ name: 'senders_of', columns: [t.userId, t.mailboxId, t.address] })],
);
