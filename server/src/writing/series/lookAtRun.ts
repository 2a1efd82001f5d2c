import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Db, Tx } from '../../base/db/database';
import { rowsOf } from '../../base/db/rows';
import { announce } from '../../base/live/changes';
import { SERIES_QUEUE } from './begin';
import { letEmailGo } from './stopRun';

const stateRow = z.object({ state: z.string() });

/** Something became of an email of a series: it is looked at now. Where the series stopped while the email was being handed over, and it was not, it goes. */
export async function lookAtRunOf(db: Db | Tx, runId: number): Promise<void> {
  const [run] = await rowsOf(db, stateRow, sql`UPDATE series_runs SET look_at = now() WHERE id = ${runId} RETURNING state`);
  if (run?.state === 'stopped') await letEmailGo(db, runId);
  await announce(db, { kind: 'work', queue: SERIES_QUEUE });
}
