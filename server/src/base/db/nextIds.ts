import { idRow, rowsOf } from './rows';
import { sql } from 'drizzle-orm';
import type { Tx } from './database';

/** The next ids of a table's identity column. */
export async function nextIds(tx: Tx, table: 'emails' | 'contacts' | 'leads' | 'accounts', count: number): Promise<number[]> {
  if (count === 0) return [];
  const rows = await rowsOf(tx, idRow, sql`SELECT nextval(pg_get_serial_sequence(${table}, 'id')) AS id FROM generate_series(1, ${count})`);
  return rows.map((row) => row.id);
}
