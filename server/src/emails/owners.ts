import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { EmailFacts } from '@fulvet/core';
import type { Db, Tx } from '../base/db/database';

/** Who uses a mailbox, as far as it tells who owns what lies in it. */
export interface MailboxReaders {
  kind: string;
  ownerId: number;
  users: readonly number[];
  /** Members by their address, in small letters. */
  members: ReadonlyMap<string, number>;
}

const mailboxUserRow = z.object({ kind: z.string(), owner_id: z.number(), users: z.array(z.number()) });

const userRow = z.object({ id: z.number(), email: z.string() });

export async function loadReaders(db: Db | Tx, mailboxId: number): Promise<MailboxReaders> {
  const rows = await rowsOf(
    db,
    mailboxUserRow,
    sql`SELECT m.kind, m.owner_id, ARRAY(SELECT u.user_id FROM mailbox_users u WHERE u.mailbox_id = m.id) AS users FROM mailboxes m WHERE m.id = ${mailboxId}`,
  );
  const [row] = rows;
  if (!row) throw new Error(`there is no mailbox ${mailboxId}`);
  const members = await rowsOf(db, userRow, sql`SELECT id, lower(email) AS email FROM users`);
  return { kind: row.kind, ownerId: row.owner_id, users: row.users, members: new Map(members.map(({ id, email }) => [email, id])) };
}

/** The owners of an email that lies in a mailbox: those who use it. What comes to a filing address is its sender's; of others, that of whom looks after it. */
export function ownersIn({ kind, ownerId, users, members }: MailboxReaders, { participants }: Pick<EmailFacts, 'participants'>): number[] {
  if (kind !== 'filing') return [...new Set([ownerId, ...users])];
  const sender = participants.find((participant) => participant.role === 'from')?.address ?? '';
  return [members.get(sender) ?? ownerId];
}

/**
 * Brings up to date who may read the emails of a mailbox, after its owner or its users changed. An email that lies in several
 * mailboxes is read by the users of each. What came to a filing address is its sender's, and stays so
 * where it is kept out and no longer says who that is. What is sealed stays with those who sealed it: no one
 * comes to read it by being given the mailbox. What changes hands is to be decided again, since rules and words go by whose it is.
 *
 * @returns how many emails have other readers now
 */
export function resetReaders(db: Db | Tx, mailboxId: number): Promise<number> {
  return resetWhere(db, sql`s.email_id IN (SELECT email_id FROM sightings WHERE mailbox_id = ${mailboxId})`);
}

/** The same for single emails, after they were unsealed. */
export function resetReadersOf(db: Db | Tx, emailIds: readonly number[]): Promise<number> {
  return resetWhere(db, sql`s.email_id = ANY(${sql.param([...emailIds])}::bigint[])`);
}

async function resetWhere(db: Db | Tx, which: SQL): Promise<number> {
  const { rowCount } = await db.execute(sql`
    UPDATE emails e SET owner_ids = w.owners, decided_at = NULL FROM (
      SELECT e.id, CASE WHEN e.outcome = 'sealed' THEN ARRAY(SELECT o FROM unnest(e.owner_ids) o WHERE o = ANY(n.owners)
          OR EXISTS (SELECT FROM pins p JOIN emails a ON a.id = p.email_id WHERE p.does = 'seal' AND p.released_at IS NULL AND p.user_id = o AND a.conversation_id = e.conversation_id)
          OR EXISTS (SELECT FROM sharing_choices w WHERE w.does = 'seal' AND w.withdrawn_at IS NULL AND w.user_id = o) ORDER BY o) ELSE n.owners END AS owners
      FROM emails e JOIN (
        SELECT s.email_id, array_agg(DISTINCT o.id ORDER BY o.id) AS owners
        FROM sightings s JOIN mailboxes m ON m.id = s.mailbox_id,
          LATERAL (
            SELECT m.owner_id AS id WHERE m.kind <> 'filing'
            UNION SELECT u.user_id FROM mailbox_users u WHERE u.mailbox_id = m.id
            UNION SELECT coalesce((SELECT w.id FROM participants p JOIN users w ON lower(w.email) = p.address WHERE p.email_id = s.email_id AND p.role = 'from' LIMIT 1),
              (SELECT k.owner_ids[1] FROM emails k WHERE k.id = s.email_id AND NOT EXISTS (SELECT FROM participants p WHERE p.email_id = k.id)), m.owner_id) WHERE m.kind = 'filing'
          ) o
        WHERE ${which} GROUP BY s.email_id) n ON n.email_id = e.id) w
    WHERE e.id = w.id AND ARRAY(SELECT unnest(e.owner_ids) ORDER BY 1) IS DISTINCT FROM w.owners`);
  return rowCount ?? 0;
}
