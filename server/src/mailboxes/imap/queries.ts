import { z } from 'zod';
import { sql } from 'drizzle-orm';
import type { Db } from '../../base/db/database';
import { rowsOf } from '../../base/db/rows';
import type { Lease } from './lease';
import { LeaseLost } from './lease';

const changedRow = z.object({ changed: z.boolean() });

/**
 * Notes that a mailbox was just in contact with its server, and how many emails there are still to be read.
 *
 * @returns whether that number changed, or this is its first contact
 * @throws {LeaseLost} when another process has the mailbox by now
 */
export async function noteContact(db: Db, mailboxId: number, { holder }: Lease, backlog: number): Promise<boolean> {
  const [noted] = await rowsOf(
    db,
    changedRow,
    sql`
    WITH before AS (SELECT backlog, last_contact_at FROM mailboxes WHERE id = ${mailboxId})
    UPDATE mailboxes m SET last_contact_at = now(), backlog = ${backlog} FROM before WHERE m.id = ${mailboxId} AND m.lease_holder = ${holder}
    RETURNING (before.backlog <> ${backlog} OR before.last_contact_at IS NULL) AS changed`,
  );
  if (!noted) throw new LeaseLost();
  return noted.changed;
}

/** Notes how many emails of each folder are still to be read. */
export async function notePending(db: Db, folders: readonly { id: number; pending: number }[]): Promise<void> {
  await db.execute(
    sql`UPDATE mailbox_folders f SET pending = n.pending FROM json_to_recordset(${JSON.stringify(folders)}::json) AS n(id bigint, pending int) WHERE f.id = n.id AND f.pending <> n.pending`,
  );
}

/** Notes when the newest email came, milliseconds, and after how many milliseconds it was read; null where that tells nothing. */
export async function noteNewest(db: Db, mailboxId: number, newest: number, delay: number | null): Promise<void> {
  await db.execute(
    sql`UPDATE mailboxes SET last_mail_at = greatest(last_mail_at, to_timestamp(${newest / 1000})), delay_ms = coalesce(${delay}::int, delay_ms) WHERE id = ${mailboxId}`,
  );
}
