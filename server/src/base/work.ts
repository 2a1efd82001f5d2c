import { eq, sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Database, Db, Tx } from './db/database';
import { isOutage } from './db/outage';
import { announce } from './live/changes';
import { work } from './db/schema';
import { idRow, rowsOf } from './db/rows';

/** Work that goes on in the background. */
export type WorkKind = 'import' | 'trial' | 'past run';

/** First number of the lock under which one process at a time is at a piece of work. */
const WORK_LOCK = 460300;

/** After so many ends of the process, the work itself is taken for their cause. */
export const MOST_INTERRUPTIONS = 2;
const LONGEST_MESSAGE = 1000;

/** Thrown by work that was asked to end. */
export class Cancelled extends Error {}

const DATABASE_AWAY = 'Waits for the database. Nothing was lost. It continues when the database is back.';

/** Thrown by work that cannot go on now: it waits, and is taken up again every minute. */
export class WorkWaits extends Error {}

/** What is said of work that did not come to its end. */
export interface WorkTexts {
  cancelled: string;
  /** The process ended again and again while it was at it. */
  interrupted: string;
  failed(error: unknown): string;
}

/** Notes new work. The row that says what it is about has to follow in the same transaction: before it, no one may see the work. */
export async function addWork(tx: Db | Tx, kind: WorkKind, begin: { state?: 'open' | 'queued'; phase?: string } = {}): Promise<number> {
  await tx.insert(work).values({ kind, state: begin.state ?? 'queued', phase: begin.phase ?? '' });
  const [row] = await rowsOf(tx, idRow, sql`SELECT currval(pg_get_serial_sequence('work', 'id')) AS id`);
  return row?.id ?? 0;
}

const takenRow = z.object({ interruptions: z.number() });
const askedRow = z.object({ cancel_asked: z.boolean() });

/** Pages that watch work hear of it at most so often. */
const TELL_MS = 400;

/** A piece of work that this process is at. */
export class Work {
  private toldAt = 0;

  constructor(
    private readonly db: Db,
    readonly id: number,
  ) {}

  /** Says how far it is. @returns true when it was asked to end */
  async progress(done: number, total: number, phase?: string): Promise<boolean> {
    const rows = await rowsOf(
      this.db,
      askedRow,
      sql`UPDATE work SET done = ${done}, total = ${total}, phase = coalesce(${phase ?? null}, phase) WHERE id = ${this.id} RETURNING cancel_asked`,
    );
    if (Date.now() - this.toldAt >= TELL_MS) {
      this.toldAt = Date.now();
      await announceWork(this.db, this.id);
    }
    return rows[0]?.cancel_asked ?? true;
  }

  /** Says how far it is. @throws {Cancelled} when it was asked to end */
  async goOn(done: number, total: number, phase?: string): Promise<void> {
    if (await this.progress(done, total, phase)) throw new Cancelled();
  }

  /** Ends it as done, in the transaction that puts its result in place. @param total of how many, where it was not said before */
  async finish(tx: Db | Tx = this.db, total?: number): Promise<void> {
    await tx
      .update(work)
      .set({ state: 'done', message: '', finishedAt: sql`clock_timestamp()`, ...(total === undefined ? {} : { done: total, total }) })
      .where(eq(work.id, this.id));
    await announceWork(tx, this.id);
  }
}

/** How work is done. */
export interface Task {
  texts: WorkTexts;
  /** Does it; has to call {@link Work.finish}. */
  run(work: Work): Promise<void>;
  /** Clears up after work that fails or is cancelled, before that is noted: also where its process is gone. */
  clearUp?(): Promise<void>;
}

/**
 * Does work to its end, unless another process is at it or it has ended. What was begun before, by a process that is gone, is begun again.
 *
 * @param atWork the ids of the work that this process is at
 * @throws what made it fail or wait, after that was noted
 */
export async function doWork(database: Database, atWork: Set<number>, workId: number, task: Task): Promise<void> {
  const { texts } = task;
  await locked(database, WORK_LOCK, workId, async () => {
    const db = database.worker;
    const [taken] = await rowsOf(
      db,
      takenRow,
      sql`UPDATE work SET state = 'running', message = '', started_at = coalesce(started_at, now()), interruptions = interruptions + (state = 'running')::int
        WHERE id = ${workId} AND state IN ('queued', 'running') RETURNING interruptions`,
    );
    if (!taken) return;
    await announceWork(db, workId);
    const giveUp = async (state: 'cancelled' | 'failed', message: string): Promise<void> => {
      try {
        await task.clearUp?.();
      } finally {
        await end(db, workId, state, message);
      }
    };
    if (taken.interruptions >= MOST_INTERRUPTIONS) return giveUp('failed', texts.interrupted);
    atWork.add(workId);
    try {
      await task.run(new Work(db, workId));
    } catch (error) {
      if (error instanceof Cancelled) return await giveUp('cancelled', texts.cancelled);
      // A database that is away is not asked to note it: the work is taken up at the next start, or look.
      if (isOutage(error)) await end(db, workId, 'queued', DATABASE_AWAY).catch(() => undefined);
      else if (error instanceof WorkWaits) await end(db, workId, 'queued', error.message);
      else await giveUp('failed', texts.failed(error));
      throw error;
    } finally {
      atWork.delete(workId);
    }
  });
}

/** Notes how work stands, unless it is done. */
async function end(db: Db | Tx, workId: number, state: 'queued' | 'cancelled' | 'failed', message: string): Promise<void> {
  await db.execute(
    sql`UPDATE work SET state = ${state}, message = ${message.slice(0, LONGEST_MESSAGE)}, finished_at = ${state === 'queued' ? null : sql`now()`}
      WHERE id = ${workId} AND state IN ('queued', 'running')`,
  );
  await announceWork(db, workId);
}

/**
 * Asks work to end. What has not begun ends at once.
 *
 * @returns whether it ended at once
 */
export async function cancelWork(
  tx: Db | Tx,
  workId: number,
  notBegun: { states: readonly ('open' | 'queued')[]; message: string },
): Promise<boolean> {
  await tx.update(work).set({ cancelAsked: true }).where(eq(work.id, workId));
  const { rowCount } = await tx.execute(
    sql`UPDATE work SET state = 'cancelled', finished_at = now(), message = ${notBegun.message} WHERE id = ${workId} AND started_at IS NULL AND state = ANY(${sql.param([...notBegun.states])}::text[])`,
  );
  await announceWork(tx, workId);
  return (rowCount ?? 0) > 0;
}

/** The rows that say what work is about. */
const ABOUT = sql`(SELECT id, work_id FROM imports UNION ALL SELECT id, work_id FROM trials UNION ALL SELECT id, work_id FROM decide_runs)`;

const unfinishedRow = z.object({ id: z.number(), kind: z.enum(['import', 'trial', 'past run']), about: z.number() });

/** Work that waits, or that a process left when it ended, with the row that it is about; the oldest first. @param waiting only what has been begun and waits */
export function unfinishedWork(db: Db, { waiting }: { waiting: boolean }): Promise<z.infer<typeof unfinishedRow>[]> {
  const these = waiting ? sql`w.state = 'queued' AND w.started_at IS NOT NULL` : sql`w.state IN ('queued', 'running')`;
  return rowsOf(
    db,
    unfinishedRow,
    sql`SELECT w.id, w.kind, r.id AS about FROM work w
      JOIN ${ABOUT} r ON r.work_id = w.id
      WHERE ${these} ORDER BY w.id`,
  );
}

/** The work that is about an import, a trial or a run; null where there is none. */
export async function workAbout(db: Db | Tx, kind: WorkKind, about: number): Promise<number | null> {
  const [row] = await rowsOf(
    db,
    idRow,
    sql`SELECT w.id FROM work w JOIN ${ABOUT} r ON r.work_id = w.id WHERE w.kind = ${kind} AND r.id = ${about}`,
  );
  return row?.id ?? null;
}

/** Deletes a work together with what it is about. */
export async function dropWork(tx: Tx, id: number): Promise<void> {
  await tx.execute(sql`DELETE FROM work WHERE id = ${id}`);
}

/** Puts back what a process that stops is at: its end is no fault of the work. */
export async function putBackWork(db: Db, ids: readonly number[]): Promise<void> {
  await db.execute(sql`UPDATE work SET state = 'queued' WHERE state = 'running' AND id = ANY(${sql.param([...ids])}::bigint[])`);
}

/** Does something unless another process is at the same. */
export async function locked(database: Database, kind: number, id: number, doIt: () => Promise<void>): Promise<void> {
  const client = await database.workerPool.connect();
  let isBroken = false;
  try {
    const { rows } = await client.query<{ got: boolean }>('SELECT pg_try_advisory_lock($1, $2) AS got', [kind, id]);
    if (!rows[0]?.got) return;
    try {
      await doIt();
    } finally {
      // A session that broke has lost its lock by that.
      await client.query('SELECT pg_advisory_unlock($1, $2)', [kind, id]).catch(() => {
        isBroken = true;
      });
    }
  } finally {
    client.release(isBroken);
  }
}

const audienceRow = z.object({ kind: z.enum(['import', 'trial', 'past run']), to: z.array(z.number()) });

/** Tells the pages of those who may see a piece of work that it went on: administrators, and of an import who began it. */
async function announceWork(db: Db | Tx, workId: number): Promise<void> {
  const [row] = await rowsOf(
    db,
    audienceRow,
    sql`SELECT w.kind, array(SELECT u.id FROM users u WHERE u.active AND (u.role = 'admin' OR u.id IN (SELECT i.user_id FROM imports i WHERE i.work_id = w.id))) AS to FROM work w WHERE w.id = ${workId}`,
  );
  if (row) await announce(db, { kind: 'progress', of: row.kind, to: row.to });
}
