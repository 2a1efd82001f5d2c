import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { mayBePersonIn } from '../base/db/personKey';
import { idRow, rowsOf } from '../base/db/rows';

/** The conversations in which someone with one of these comparable addresses takes part, with a +tag or without. */
export async function conversationsWith(tx: Tx, addresses: readonly string[]): Promise<number[]> {
  if (addresses.length === 0) return [];
  const list = sql`${sql.param([...addresses])}::text[]`;
  const rows = await rowsOf(
    tx,
    idRow,
    sql`SELECT DISTINCT e.conversation_id AS id FROM participants p JOIN emails e ON e.id = p.email_id WHERE ${mayBePersonIn(sql`p.address`, list)}`,
  );
  return rows.map((row) => row.id);
}
