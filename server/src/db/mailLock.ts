import { sql } from 'drizzle-orm';
import type { Tx } from './database';

const MAIL_LOCK = 460202;

/**
 * Makes the writers of mail wait for each other: ingest, decisions, changed readers and undo touch the same emails in orders of their
 * own, and would else block each other until PostgreSQL ends one of them. To be taken first in the transaction.
 */
export async function takeMailLock(tx: Tx): Promise<void> {
  await tx.execute(sql`SELECT pg_advisory_xact_lock(${MAIL_LOCK})`);
}
