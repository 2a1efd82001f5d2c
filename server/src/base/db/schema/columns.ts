import { bigint, customType, timestamp } from 'drizzle-orm/pg-core';

/** Columns that many tables have. */
export const tsvector = customType<{ data: string }>({ dataType: () => 'tsvector' });
export const id = () => bigint({ mode: 'number' }).primaryKey().generatedAlwaysAsIdentity();
export const ref = () => bigint({ mode: 'number' });
export const moment = () => timestamp({ withTimezone: true, mode: 'date' });
export const bytea = customType<{ data: Buffer }>({ dataType: () => 'bytea' });
