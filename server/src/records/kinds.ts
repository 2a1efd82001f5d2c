import type { RecordKind } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';

const TABLES: Record<RecordKind, string> = {
  contact: 'contacts',
  lead: 'leads',
  account: 'accounts',
  deal: 'deals',
  own: 'own_records',
};

/** The table that holds the records of a kind. */
export const tableNameOf = (kind: RecordKind): string => TABLES[kind];

export const tableOf = (kind: RecordKind): SQL => sql`${sql.identifier(TABLES[kind])}`;

/** What so many records of a kind are called in a sentence: `contact`, `contacts`. */
export const nounOf = (kind: RecordKind, count = 1): string => {
  const noun = kind === 'own' ? 'record' : kind;
  return count === 1 ? noun : `${noun}s`;
};

/** Kinds whose records have people on them. */
export const KINDS_WITH_PEOPLE = ['deal', 'own'] as const;

export type KindWithPeople = (typeof KINDS_WITH_PEOPLE)[number];

/** Where it stands who is on a record: the table, and its column with the record's id. */
export const PEOPLE_OF: Record<KindWithPeople, { table: SQL; id: SQL }> = {
  deal: { table: sql`deal_people`, id: sql`deal_id` },
  own: { table: sql`own_record_people`, id: sql`record_id` },
};
