import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';

const RULEBOOK_LOCK = 460206;

/** Makes those who change the rulebook, its draft or a pilot wait for each other. Held until the transaction ends. */
export async function takeRulebookLock(tx: Tx): Promise<void> {
  await tx.execute(sql`SELECT pg_advisory_xact_lock(${RULEBOOK_LOCK})`);
}
