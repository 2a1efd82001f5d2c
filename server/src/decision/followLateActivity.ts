import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { sql } from 'drizzle-orm';
import type { Sources } from '../base/reading/sources';
import type { Database } from '../base/db/database';
import { takeMailLock } from '../base/db/mailLock';
import { runDecisions } from './decideRun';
import { markByScore } from './lateActivity';

const lateActivityRow = z.object({ deal: z.number(), since: z.number() });

/**
 * Decides again what late mail may have changed.
 *
 * @param quietSeconds deals about which something was learnt since are left for later: while a mailbox is read back, more comes
 */
export async function followLateActivity(database: Database, blobs: Sources, quietSeconds = 0): Promise<void> {
  const marked = await database.work(async (tx) => {
    await takeMailLock(tx);
    const rows = await rowsOf(
      tx,
      lateActivityRow,
      sql`DELETE FROM late_activity WHERE touched_at <= now() - make_interval(secs => ${quietSeconds}) RETURNING deal_id AS deal, (extract(epoch FROM since) * 1000)::float8 AS since`,
    );
    return markByScore(tx, new Map(rows.map((row) => [row.deal, row.since])));
  });
  if (marked > 0) await runDecisions(database, blobs, 'undecided');
}
