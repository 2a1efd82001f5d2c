import { sql } from 'drizzle-orm';
import { bigint, boolean, check, index, integer, pgTable, primaryKey, text, uniqueIndex } from 'drizzle-orm/pg-core';
import { id, moment, ref } from './columns';
import { emails } from './mail';
import { mailboxFolders, mailboxes } from './mailboxes';

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
