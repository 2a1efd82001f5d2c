import { sql } from 'drizzle-orm';
import type { Db, Tx } from '../db/database';

/**
 * Brings up to date who may read the emails of a mailbox, after its owner or its users changed. An email that lies in several
 * mailboxes is read by the users of each. What came to a filing address is its sender's.
 *
 * @returns how many emails have other readers now
 */
export async function resetReaders(db: Db | Tx, mailboxId: number): Promise<number> {
  const { rowCount } = await db.execute(sql`
    UPDATE emails e SET owner_ids = n.owners FROM (
      SELECT s.email_id, array_agg(DISTINCT o.id ORDER BY o.id) AS owners
      FROM sightings s JOIN mailboxes m ON m.id = s.mailbox_id,
        LATERAL (
          SELECT m.owner_id AS id WHERE m.kind <> 'filing'
          UNION SELECT u.user_id FROM mailbox_users u WHERE u.mailbox_id = m.id
          UNION SELECT coalesce((SELECT w.id FROM participants p JOIN users w ON lower(w.email) = p.address WHERE p.email_id = s.email_id AND p.role = 'from' LIMIT 1), m.owner_id) WHERE m.kind = 'filing'
        ) o
      WHERE s.email_id IN (SELECT email_id FROM sightings WHERE mailbox_id = ${mailboxId}) GROUP BY s.email_id) n
    WHERE e.id = n.email_id AND ARRAY(SELECT unnest(e.owner_ids) ORDER BY 1) IS DISTINCT FROM n.owners`);
  return rowCount ?? 0;
}
