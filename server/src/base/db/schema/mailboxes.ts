import { sql } from 'drizzle-orm';
import { bigint, boolean, check, date, index, integer, jsonb, numeric, pgTable, primaryKey, text, uniqueIndex } from 'drizzle-orm/pg-core';
import { work } from './work';
import { id, moment, ref } from './columns';
import { isRecordKind } from './recordKeys';
import { emails } from './emails';
import { users } from './team';

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
    /** What comes in from it: what the rulebook says, or less. */
    takeIn: text().notNull().default('rules'),
    /** A keyword marks filed emails in the mailbox itself. */
    markFiled: boolean().notNull().default(false),
    /** Of a shared address: those who use it may send from it, not its owner alone. */
    usersSend: boolean().notNull().default(false),
    /** Openings of emails that are sent from it may be counted. */
    measures: boolean().notNull().default(false),
    /** When its owner agreed that copies of emails sent from here are put into its sent folder; who connects one reads that there. Null: not asked yet. */
    copiesAgreedAt: moment().defaultNow(),
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
    check('mailboxes_take_in_known', sql`${t.takeIn} in ('rules', 'known', 'byHand')`),
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
    check('mailbox_folders_file_as_known', sql`${t.fileAs} = 'rules' or ${isRecordKind(t.fileAs)}`),
  ],
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
    index('mailbox_events_by_time').on(t.mailboxId, t.id),
    check('mailbox_events_level_known', sql`${t.level} in ('note', 'problem', 'solved')`),
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

export const sightings = pgTable(
  'sightings',
  {
    emailId: ref()
      .notNull()
      .references(() => emails.id, { onDelete: 'cascade' }),
    mailboxId: ref()
      .notNull()
      .references(() => mailboxes.id),
    /** This copy names the blind copies, and those who use the mailbox know of them. */
    namesBcc: boolean().notNull().default(false),
    /** This is the copy of the email's sender. */
    isSenders: boolean().notNull().default(false),
    folder: text().notNull(),
    importId: ref(),
    seenAt: moment().notNull().defaultNow(),
  },
  (t) => [
    primaryKey({ columns: [t.emailId, t.mailboxId, t.folder] }),
    index('sightings_by_mailbox').on(t.mailboxId, t.emailId),
    index('sightings_by_import')
      .on(t.importId, t.emailId)
      .where(sql`import_id IS NOT NULL`),
  ],
);

/** How many emails a mailbox has of each day (UTC, by the day an email was sent), kept by triggers. No member reads it by itself. */
export const mailboxDays = pgTable(
  'mailbox_days',
  {
    mailboxId: ref()
      .notNull()
      .references(() => mailboxes.id, { onDelete: 'cascade' }),
    day: date({ mode: 'string' }).notNull(),
    emails: integer().notNull(),
  },
  (t) => [primaryKey({ columns: [t.mailboxId, t.day] })],
);

export const imports = pgTable(
  'imports',
  {
    id: id(),
    workId: ref()
      .notNull()
      .references(() => work.id, { onDelete: 'cascade' }),
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
  },
  (t) => [uniqueIndex('imports_work_once').on(t.workId)],
);

/** Result for each message of an import. */
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

/** Addresses outside our own domains that an administrator confirmed to be ours. */
export const teamAddresses = pgTable('team_addresses', {
  address: text().primaryKey(),
  confirmedBy: bigint({ mode: 'number' }).references(() => users.id),
  confirmedAt: moment().notNull().defaultNow(),
});
