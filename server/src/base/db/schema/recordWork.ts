import { sql } from 'drizzle-orm';
import { boolean, check, index, integer, jsonb, pgTable, primaryKey, text, uniqueIndex } from 'drizzle-orm/pg-core';
import { codeKeyInSql, isRecordKind } from './recordKeys';
import { id, moment, ref } from './columns';
import { ownKinds } from './ownRecords';
import { users } from './team';

/** A field of records that the workspace has added. */
export const ownFields = pgTable(
  'own_fields',
  {
    id: id(),
    recordKind: text().notNull(),
    /** Of records of an own kind: which. */
    ownKindId: ref().references(() => ownKinds.id, { onDelete: 'cascade' }),
    /** By which records hold its value, and rules and files name it; stays when the label changes. */
    key: text().notNull(),
    label: text().notNull(),
    type: text().notNull(),
    choices: text()
      .array()
      .notNull()
      .default(sql`'{}'`),
    position: integer().notNull().default(0),
  },
  (t) => [
    uniqueIndex('own_fields_key_once').on(t.recordKind, t.key),
    check('own_fields_of_kind', sql`(${t.recordKind} = 'own') = (${t.ownKindId} is not null)`),
    check('own_fields_kind_known', isRecordKind(t.recordKind)),
    check('own_fields_type_known', sql`${t.type} in ('text', 'number', 'date', 'choice', 'yesNo')`),
  ],
);

/** The stages that deals go through, in order. */
export const dealStages = pgTable(
  'deal_stages',
  {
    id: id(),
    name: text().notNull(),
    position: integer().notNull(),
    /** False for a stage in which a deal is closed. */
    open: boolean().notNull().default(true),
  },
  (t) => [uniqueIndex('deal_stages_name_once').on(sql`lower(${t.name})`)],
);

/** What was changed of a record, by whom, before and after, in words. */
export const recordChanges = pgTable(
  'record_changes',
  {
    id: id(),
    kind: text().notNull(),
    recordId: ref().notNull(),
    userId: ref().references(() => users.id),
    at: moment().notNull().defaultNow(),
    field: text().notNull(),
    before: text().notNull().default(''),
    after: text().notNull().default(''),
  },
  (t) => [
    index('record_changes_by_record').on(t.kind, t.recordId, t.id),
    // Mail that names a deal by a code that it had before.
    index('record_changes_former_codes')
      .on(codeKeyInSql(t.before))
      .where(sql`${t.kind} = 'deal' and ${t.field} = 'code'`),
  ],
);

/** A list of records with its filters, order and columns, kept under a name. */
export const recordViews = pgTable(
  'record_views',
  {
    id: id(),
    recordKind: text().notNull(),
    name: text().notNull(),
    userId: ref()
      .notNull()
      .references(() => users.id, { onDelete: 'cascade' }),
    /** Everyone finds it, not its maker alone. */
    shared: boolean().notNull().default(false),
    /** The query string of the list. */
    query: text().notNull(),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [uniqueIndex('record_views_name_once').on(t.userId, t.recordKind, sql`lower(${t.name})`)],
);

/** Two records made one, with all that is needed to part them again. */
export const merges = pgTable(
  'merges',
  {
    id: id(),
    kind: text().notNull(),
    keptId: ref().notNull(),
    goneId: ref().notNull(),
    goneName: text().notNull(),
    userId: ref()
      .notNull()
      .references(() => users.id),
    at: moment().notNull().defaultNow(),
    /** Rows as they stood, by table. */
    stood: jsonb().$type<Record<string, unknown[]>>().notNull(),
    undoneAt: moment(),
  },
  (t) => [index('merges_by_kept').on(t.kind, t.keptId)],
);

/** Two records that someone said are not the same, the smaller id first. */
export const duplicateRefusals = pgTable(
  'duplicate_refusals',
  {
    kind: text().notNull(),
    oneId: ref().notNull(),
    otherId: ref().notNull(),
    userId: ref()
      .notNull()
      .references(() => users.id),
    at: moment().notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.kind, t.oneId, t.otherId] })],
);
