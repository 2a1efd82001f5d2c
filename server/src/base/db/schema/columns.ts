import { sql } from 'drizzle-orm';
import { bigint, customType, jsonb, text, timestamp } from 'drizzle-orm/pg-core';

/** Columns that many tables have. */
export const tsvector = customType<{ data: string }>({ dataType: () => 'tsvector' });
export const id = () => bigint({ mode: 'number' }).primaryKey().generatedAlwaysAsIdentity();
export const ref = () => bigint({ mode: 'number' });
export const moment = () => timestamp({ withTimezone: true, mode: 'date' });
export const bytea = customType<{ data: Buffer }>({ dataType: () => 'bytea' });
/** Values of own fields by the field's key. */
export const ownValues = () => jsonb().$type<Record<string, unknown>>().notNull().default({});
/** Part of a record's filing address; short, and not to be guessed. */
export const filingCode = () =>
  text()
    .notNull()
    .default(sql`substr(replace(gen_random_uuid()::text, '-', ''), 1, 12)`);
