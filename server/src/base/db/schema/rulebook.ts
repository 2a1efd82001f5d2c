import { sql } from 'drizzle-orm';
import { boolean, check, date, index, integer, jsonb, pgTable, text, uniqueIndex } from 'drizzle-orm/pg-core';
import { id, moment, ref } from './columns';
import { users } from './team';

/** A named, reusable list of domains or addresses. */
export const addressLists = pgTable(
  'address_lists',
  {
    id: text().primaryKey(),
    name: text().notNull(),
    note: text().notNull().default(''),
    createdBy: ref().references(() => users.id),
    createdAt: moment().notNull().defaultNow(),
    /** Ships with content, and every rulebook goes by it. */
    shipped: boolean().notNull().default(false),
    changedAt: moment().notNull().defaultNow(),
  },
  (t) => [uniqueIndex('address_lists_name_once').on(sql`lower(${t.name})`)],
);

export const addressListEntries = pgTable(
  'address_list_entries',
  {
    id: id(),
    listId: text()
      .notNull()
      .references(() => addressLists.id, { onDelete: 'cascade' }),
    kind: text().notNull(),
    value: text().notNull(),
    exactly: boolean().notNull().default(false),
    note: text().notNull().default(''),
    addedBy: ref().references(() => users.id),
    addedAt: moment().notNull().defaultNow(),
    /** The last day on which it counts. */
    until: date(),
  },
  (t) => [
    uniqueIndex('address_list_entries_once').on(t.listId, t.kind, t.value),
    index('address_list_entries_by_value').on(t.value),
    check('address_list_entries_kind_known', sql`${t.kind} in ('domain', 'address', 'local')`),
  ],
);

/** One row: the rulebook that is being edited. */
export const rulebookDraft = pgTable(
  'rulebook_draft',
  {
    id: integer().primaryKey().default(1),
    document: jsonb().$type<unknown>().notNull(),
    /** The live version that it was begun from. */
    baseVersion: integer().notNull(),
    revision: integer().notNull().default(1),
    editedBy: ref().references(() => users.id),
    editedAt: moment().notNull().defaultNow(),
  },
  (t) => [check('rulebook_draft_is_one', sql`${t.id} = 1`)],
);

export const rulebooks = pgTable(
  'rulebooks',
  {
    version: integer().primaryKey(),
    document: jsonb().$type<unknown>().notNull(),
    summary: text().notNull(),
    createdBy: ref().references(() => users.id),
    createdAt: moment().notNull().defaultNow(),
    /** Set for a version that is in force for the mail of these mailboxes only, tried before everyone gets it. */
    pilotMailboxes: text().array(),
    pilotEndedAt: moment(),
  },
  (t) => [
    uniqueIndex('rulebooks_one_pilot')
      .on(sql`(true)`)
      .where(sql`${t.pilotMailboxes} is not null and ${t.pilotEndedAt} is null`),
  ],
);
