import { LEGAL_FORMS, RECORD_KINDS } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { AnyColumn, SQL } from 'drizzle-orm';

/** The halves of a domain without its middle, as `keptKeys` of the core has them. */
export const leftHalfInSql = (domain: SQL | AnyColumn): SQL => sql`('<' || left(${domain}, (length(${domain}) - 1) / 2))`;
export const rightHalfInSql = (domain: SQL | AnyColumn): SQL => sql`('>' || right(${domain}, (length(${domain}) - 1) / 2))`;

/** `codeKey` of the core in SQL; there are indexes on the codes of deals, those of now and those of before. */
export const codeKeyInSql = (code: SQL | AnyColumn): SQL => sql`translate(upper(${code}), '-_/.#: ', '')`;

/** `companyKey` of the core in SQL; there is an index on the names of accounts for it. @param name a column, as it is written in the query */
export const companyKeyInSql = (name: 'name' | 'n.name'): SQL =>
  sql.raw(`translate(regexp_replace(lower(${name}), '\\m(${LEGAL_FORMS.join('|')})\\M', '', 'g'), ' -_.,&''', '')`);

/** That a column names a kind of records. */
export const isRecordKind = (column: AnyColumn): SQL => sql`${column} in (${sql.raw(RECORD_KINDS.map((kind) => `'${kind}'`).join(', '))})`;
