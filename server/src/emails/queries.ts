import { idRow, rowsOf } from '../base/db/rows';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';

/** The email of a Message-ID that a member owns or may read, their own first; null where there is none. */
export async function emailOfMessageId(tx: Tx, userId: number, messageId: string): Promise<number | null> {
  const [email] = await rowsOf(
    tx,
    idRow,
    sql`SELECT e.id FROM emails e WHERE e.message_id = ${messageId} AND (${userId} = ANY(e.owner_ids) OR EXISTS (SELECT FROM email_contents c WHERE c.email_id = e.id)) ORDER BY ${userId} = ANY(e.owner_ids) DESC, e.id LIMIT 1`,
  );
  return email?.id ?? null;
}
