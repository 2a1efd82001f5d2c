import { z } from 'zod';
import { rowsOf } from './rows';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { Db, Tx } from './database';

/** SQL for the name of a record, by columns of kind and id; null for one that is gone, or out of the acting user's reach. */
export function recordName(kind: SQL, id: SQL): SQL {
  return sql`(SELECT r.name FROM records r WHERE r.kind = ${kind} AND r.id = ${id})`;
}

const namedRow = z.object({ key: z.string(), name: z.string().nullable() });

/** Names of records by `kind:id`; those that are gone, or that the acting user may not see, are missing. */
export async function namesOf(db: Db | Tx, keys: readonly string[]): Promise<Map<string, string>> {
  if (keys.length === 0) return new Map();
  const rows = await rowsOf(
    db,
    namedRow,
    sql`
    SELECT k.key, ${recordName(sql`k.kind`, sql`k.id`)} AS name FROM (SELECT key, split_part(key, ':', 1) AS kind, split_part(key, ':', 2)::bigint AS id FROM unnest(${sql.param([...keys])}::text[]) AS u(key)) k`,
  );
  return new Map(rows.flatMap((row) => (row.name === null ? [] : [[row.key, row.name] as const])));
}
