import { z } from 'zod';
import { idRow, moment, rowsOf } from '../../base/db/rows';
import type { Refusal } from '../../base/refusal';
import { notFound } from '../../base/refusal';
import type { DecideRun } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';
import type { Span } from './decidePast';

const MOST_LISTED = 20;
/** So many of the newest runs can be undone. */
const MOST_UNDOABLE = 10;

const decideRunRow = z.object({
  id: z.number(),
  state: z.enum(['failed', 'queued', 'running', 'done', 'cancelled']),
  done: z.number(),
  total: z.number(),
  changed: z.number(),
  message: z.string(),
  phase: z.enum(['deciding', 'writing']),
  since: moment.nullable(),
  mailboxes: z.array(z.string()),
  takenBack: z.number(),
});

const RUN = sql`r.id, w.state, w.done, w.total, r.changed, w.message, w.phase, r.since, r.mailboxes, r.taken_back AS "takenBack"`;

export async function decideRun(tx: Tx, id: number): Promise<DecideRun | Refusal> {
  const [run] = await rowsOf(tx, decideRunRow, sql`SELECT ${RUN} FROM decide_runs r JOIN work w ON w.id = r.work_id WHERE r.id = ${id}`);
  return run ?? notFound('run');
}

const listedRunRow = decideRunRow.extend({ at: moment, by: z.string().nullable(), undoable: z.boolean() });

/** The newest runs over past mail. */
export const newestRuns = (tx: Tx): Promise<z.output<typeof listedRunRow>[]> =>
  rowsOf(
    tx,
    listedRunRow,
    sql`
    SELECT ${RUN}, w.created_at AS at, u.name AS by, r.undone_at IS NULL AND w.state = 'done' AND r.id > (SELECT max(id) FROM decide_runs) - ${MOST_UNDOABLE} AS undoable
    FROM decide_runs r JOIN work w ON w.id = r.work_id LEFT JOIN users u ON u.id = r.user_id ORDER BY r.id DESC LIMIT ${MOST_LISTED}`,
  );

/** @returns its id */
export async function insertRun(
  tx: Tx,
  workId: number,
  userId: number,
  { since, mailboxes, withoutMade }: Span & { withoutMade: boolean },
): Promise<number> {
  const [row] = await rowsOf(
    tx,
    idRow,
    sql`INSERT INTO decide_runs (work_id, user_id, since, mailboxes, without_made) VALUES (${workId}, ${userId}, ${since}::timestamptz, ${sql.param([...mailboxes])}::text[], ${withoutMade}) RETURNING id`,
  );
  return row?.id ?? 0;
}
