import { sql } from 'drizzle-orm';
import { bigint, boolean, check, date, index, integer, jsonb, pgTable, primaryKey, text, uniqueIndex } from 'drizzle-orm/pg-core';
import { filingCode, id, moment, ownValues, ref } from './columns';
import { accounts } from './records';
import { emails } from './emails';
import { users } from './team';

/** A kind of records that the workspace defines, such as cases. */
export const ownKinds = pgTable(
  'own_kinds',
  {
    id: id(),
    /** By which rules, files and lists name it; stays when the name changes. */
    key: text().notNull(),
    singular: text().notNull(),
    plural: text().notNull(),
    icon: text().notNull(),
    /** What stands before the number of its records, such as CASE. */
    prefix: text().notNull(),
    lastNumber: integer().notNull().default(0),
    /** In order; a new record begins in the first. */
    states: jsonb().$type<{ name: string; open: boolean }[]>().notNull(),
    hasPeople: boolean().notNull().default(true),
    hasAccount: boolean().notNull().default(true),
    /** Mail from and to an address of a record leads to it. */
    hasAddresses: boolean().notNull().default(false),
    /** Teams that see its records, beside administrators and owners; empty: whoever sees other records. */
    seenByTeams: bigint({ mode: 'number' })
      .array()
      .notNull()
      .default(sql`'{}'`),
    position: integer().notNull().default(0),
  },
  (t) => [
    uniqueIndex('own_kinds_key_once').on(t.key),
    uniqueIndex('own_kinds_prefix_once').on(sql`upper(${t.prefix})`),
    uniqueIndex('own_kinds_singular_once').on(sql`lower(${t.singular})`),
    check('own_kinds_has_states', sql`jsonb_array_length(${t.states}) > 0`),
  ],
);

/** A record of an own kind. */
export const ownRecords = pgTable(
  'own_records',
  {
    id: id(),
    kindId: ref()
      .notNull()
      .references(() => ownKinds.id),
    name: text().notNull(),
    /** Prefix and number, such as CASE-12. */
    code: text().notNull(),
    accountId: ref().references(() => accounts.id, { onDelete: 'set null' }),
    ownerId: ref().references(() => users.id),
    state: text().notNull(),
    open: boolean().notNull().default(true),
    openedOn: date({ mode: 'string' })
      .notNull()
      .default(sql`current_date`),
    closedOn: date({ mode: 'string' }),
    own: ownValues(),
    originEmailId: ref().references(() => emails.id, { onDelete: 'set null' }),
    originRule: text(),
    filingCode: filingCode(),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [
    uniqueIndex('own_records_filing_code_once').on(t.filingCode),
    uniqueIndex('own_records_code_once').on(sql`upper(${t.code})`),
    index('own_records_by_account').on(t.accountId),
    index('own_records_by_kind').on(t.kindId, t.open),
    index('own_records_by_origin').on(t.originEmailId),
  ],
);

/** The contacts and leads of a record of an own kind. */
export const ownRecordPeople = pgTable(
  'own_record_people',
  {
    recordId: ref()
      .notNull()
      .references(() => ownRecords.id, { onDelete: 'cascade' }),
    kind: text().notNull(),
    personId: ref().notNull(),
    /** What they are to it. */
    role: text().notNull().default(''),
  },
  (t) => [primaryKey({ columns: [t.recordId, t.kind, t.personId] }), index('own_record_people_by_person').on(t.kind, t.personId)],
);

/** Addresses that lead to a record of an own kind, in comparable form. */
export const ownRecordAddresses = pgTable(
  'own_record_addresses',
  {
    recordId: ref()
      .notNull()
      .references(() => ownRecords.id, { onDelete: 'cascade' }),
    address: text().notNull(),
  },
  (t) => [primaryKey({ columns: [t.recordId, t.address] }), index('own_record_addresses_by_address').on(t.address)],
);
