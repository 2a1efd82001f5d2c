import { z } from 'zod';
import { rowsOf } from './rows';
import { sql } from 'drizzle-orm';
import type { Database, Tx } from './database';

const MAIL_LOCK = 460202;

/**
 * Makes the writers of mail wait for each other: ingest, decisions, changed readers and undo touch the same emails in orders of their
 * own, and would else block each other until PostgreSQL ends one of them. To be taken first in the transaction.
 */
export async function takeMailLock(tx: Tx): Promise<void> {
  await tx.execute(sql`SELECT pg_advisory_xact_lock(${MAIL_LOCK})`);
}

const mailMomentRow = z.object({ now: z.string() });

/** A moment at which no one writes mail: what is decided before it is seen from now on, and whatever is written later bears a later time. */
export function mailMoment(database: Database): Promise<string> {
  return database.work(async (tx) => {
    await takeMailLock(tx);
    const rows = await rowsOf(tx, mailMomentRow, sql`SELECT clock_timestamp()::text AS now`);
    return rows[0]?.now ?? '';
  });
}
