import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';

/** How a rulebook tells people apart by their addresses. */
export interface TellsApart {
  tagsTellApart: boolean;
}

/** An address without its +tag in SQL; there is an index on participants for it. */
const untagged = (column: SQL): SQL => sql`regexp_replace(${column}, '^([^+]+)\\+[^@]*@', '\\1@')`;

/** What a rulebook's `personKey` makes of an address, in SQL: the address without its +tag, or with it where tags tell people apart. */
export const personKeyInSql = (rulebook: TellsApart, column: SQL): SQL => (rulebook.tagsTellApart ? column : untagged(column));

/** Whether an address is one of these, or would be without its +tag: who may be concerned, whatever the rulebook says about tags. */
export const mayBePersonIn = (column: SQL, addresses: SQL): SQL =>
  sql`(${column} = ANY(${addresses}) OR ${untagged(column)} = ANY(${addresses}))`;
