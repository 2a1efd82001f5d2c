import { trials } from './base/db/schema';
import { idRow, rowsOf } from './base/db/rows';
import { sql, eq, and } from 'drizzle-orm';
import PgBoss from 'pg-boss';
import type { Database } from './base/db/database';
import { announce } from './base/live/changes';
import type { DecideScope } from './decision/decideRun';
import { runDecisions } from './decision/decideRun';
import { runOverPast } from './decision/past/pastRun';
import { runImport } from './mailboxes/files/importRun';
import { queueDatabase } from './base/queueDatabase';
import type { Jobs, Services } from './base/services';
import { refreshReadings } from './emails/store/refreshReadings';
import { letGo } from './workspace/privacy/retention';
import { runTrial } from './trials/runTrial';
import { CHECK_QUEUE, MailWorker, sendTurn, TURN_QUEUE } from './mailboxes/imap/mailWorker';
import type { TurnLimits } from './mailboxes/imap/mailboxTurn';
import { TURN_LIMITS } from './mailboxes/imap/mailboxTurn';

const QUEUES = ['import-mail', 'decide-all', 'decide-concerned', 'decide-pending', 'retention', 'trial'] as const;
const MINUTE_MS = 60_000;
const HOUR_MS = 3_600_000;
const READING_LOCK = 460207;
const TRIAL_LOCK = 460302;

export interface JobsRole {
  /** Takes up what a process that ended left unfinished. */
  main: boolean;
  /** Does the work of the queue; without it, work is only handed to those who do. */
  works: boolean;
  worksOnMailboxes: boolean;
  turnLimits: Partial<TurnLimits>;
  takeUpMs?: number;
}

/** Starts the queue and, where this process or thread works, its workers. */
export async function startJobs(services: Omit<Services, 'jobs'>, role: JobsRole): Promise<Jobs> {
  const { database, log } = services;
  let hasEnded = false;
  const boss = new PgBoss({
    db: queueDatabase(
      (text, values) => database.workerPool.query(text, values),
      (error) => log.warn({ err: error }, 'the end of a job is not noted yet'),
      () => hasEnded,
    ),
    schema: 'pgboss',
    schedule: false,
  });
  boss.on('error', (error) => log.error({ err: error }, 'job queue'));
  await boss.start();
  for (const queue of QUEUES) await boss.createQueue(queue);
  // At most one turn or check of a mailbox waits, and one is at work.
  for (const queue of [TURN_QUEUE, CHECK_QUEUE]) await boss.createQueue(queue, { name: queue, policy: 'stately' });
  const send: Send = async (queue, data) => {
    await boss.send(queue, data, { retryLimit: 0, expireInHours: 23 });
    await announce(database.worker, { kind: 'work', queue });
  };
  const stopWork = role.works ? await startWork(services, boss, send, role) : () => Promise.resolve();
  return {
    importMail: (importId) => send('import-mail', { importId }),
    decideAll: (runId) => send('decide-all', { runId }),
    decideConcerned: (scope) => send('decide-concerned', scope),
    runTrial: (trialId) => send('trial', { trialId }),
    decidePending: () => send('decide-pending', {}),
    checkMailbox: async (mailboxId, from) => {
      await boss.send(CHECK_QUEUE, { mailboxId, from }, { singletonKey: String(mailboxId), retryLimit: 0, expireInMinutes: 5 });
    },
    hurryMailbox: async (mailboxId) => {
      await sendTurn(boss, mailboxId);
      await database.worker.execute(
        sql`UPDATE pgboss.job SET start_after = now() WHERE name = ${TURN_QUEUE} AND state = 'created' AND singleton_key = ${String(mailboxId)} AND start_after > now()`,
      );
      await announce(database.worker, { kind: 'wake', id: mailboxId });
    },
    stop: async () => {
      await stopWork();
      hasEnded = true;
      await boss.stop({ graceful: true, timeout: 5000 });
    },
  };
}

type Queue = (typeof QUEUES)[number];
type Send = (queue: Queue, data: object) => Promise<void>;

/** @returns what ends it */
async function startWork(services: Omit<Services, 'jobs'>, boss: PgBoss, send: Send, role: JobsRole): Promise<() => Promise<void>> {
  const { database, blobs, uploads, log, changes } = services;
  const workers = new Map<string, string>();
  const handle = async <T extends object>(queue: Queue, work: (data: T) => Promise<void>): Promise<void> => {
    const worker = await boss.work<T>(queue, { pollingIntervalSeconds: 0.5 }, async ([job]) => {
      if (!job) return;
      try {
        await work(job.data);
      } catch (error) {
        log.error({ err: error, queue }, 'job failed');
      }
    });
    workers.set(queue, worker);
  };
  // Whoever sends work says so: it is not left until the next look at the queue.
  const deaf = changes.hear((change) => {
    const worker = change.kind === 'work' ? workers.get(change.queue) : undefined;
    if (worker !== undefined) boss.notifyWorker(worker);
  });
  const importing = new Set<number>();
  await handle<{ importId: number }>('import-mail', ({ importId }) =>
    once(database, 460300, importId, async () => {
      importing.add(importId);
      await runImport(database, blobs, uploads, importId).finally(() => importing.delete(importId));
    }),
  );
  await handle<{ runId: number }>('decide-all', ({ runId }) => once(database, 460301, runId, () => runOverPast(database, blobs, runId)));
  await handle<Exclude<DecideScope, string>>('decide-concerned', async (scope) => {
    await runDecisions(database, blobs, scope);
  });
  await handle('decide-pending', async () => {
    await runDecisions(database, blobs, 'undecided');
  });
  await handle('retention', async () => {
    await letGo(database, blobs, null);
  });
  await handle<{ trialId: number }>('trial', ({ trialId }) =>
    once(database, TRIAL_LOCK, trialId, () => runTrial(database, blobs, trialId)),
  );
  if (role.main) await takeUpUnfinished(database, send);
  // Imports that wait for room on the disk, or for the database, are taken up again.
  const waiting = setInterval(() => {
    rowsOf(database.worker, idRow, sql`SELECT id FROM imports WHERE state = 'queued' AND started_at IS NOT NULL`)
      .then(async (rows) => {
        for (const { id } of rows) if (!importing.has(id)) await send('import-mail', { importId: id });
      })
      .catch((error: unknown) => log.warn({ err: error }, 'waiting imports'));
  }, role.takeUpMs ?? MINUTE_MS);
  waiting.unref();
  // Once a day, whichever of the processes looks first.
  const daily = setInterval(() => {
    database.worker
      .execute(
        sql`UPDATE retention SET last_run_at = now() WHERE days IS NOT NULL AND coalesce(last_run_at < now() - interval '1 day', true)`,
      )
      .then((due) => (due.rowCount ? send('retention', {}) : undefined))
      .catch((error: unknown) => log.error({ err: error }, 'retention'));
  }, HOUR_MS);
  daily.unref();
  const worker = role.worksOnMailboxes ? new MailWorker(services, boss, { ...TURN_LIMITS, ...role.turnLimits }) : null;
  worker?.start();
  let isStopped = false;
  const refreshing = once(database, READING_LOCK, 0, async () => {
    await refreshReadings(database, log, () => isStopped);
  }).catch((error: unknown) => log.error({ err: error }, 'stored texts were not read again'));
  return async () => {
    isStopped = true;
    await refreshing;
    deaf();
    clearInterval(daily);
    clearInterval(waiting);
    // An import that goes on at the next start was not interrupted by a fault.
    await database.worker
      .execute(sql`UPDATE imports SET state = 'queued' WHERE state = 'running' AND id = ANY(${sql.param([...importing])}::bigint[])`)
      .catch((error: unknown) => log.error({ err: error }, 'imports were not put back'));
    await worker?.stop();
  };
}

async function takeUpUnfinished(database: Database, send: Send): Promise<void> {
  const left = await rowsOf(database.worker, idRow, sql`SELECT id FROM imports WHERE state IN ('queued', 'running') ORDER BY id`);
  for (const { id } of left) await send('import-mail', { importId: id });
  await endDeadTrials(database);
  const runs = await rowsOf(database.worker, idRow, sql`SELECT id FROM decide_runs WHERE state IN ('queued', 'running') ORDER BY id`);
  for (const { id } of runs) await send('decide-all', { runId: id });
}

/** Trials whose process is gone: no one holds their lock. Those of other processes go on, and those that wait are taken up by the queue. */
async function endDeadTrials(database: Database): Promise<void> {
  const rows = await rowsOf(database.worker, idRow, sql`SELECT id FROM trials WHERE state = 'running'`);
  for (const { id } of rows)
    await once(database, TRIAL_LOCK, id, async () => {
      await database.worker
        .update(trials)
        .set({ state: 'failed', message: 'The server ended before the trial did. Start it again.', finishedAt: sql`now()` })
        .where(and(eq(trials.id, id), eq(trials.state, 'running')));
    });
}

/** Runs work unless another process is at the same. */
async function once(database: Database, kind: number, id: number, work: () => Promise<void>): Promise<void> {
  const client = await database.workerPool.connect();
  let isBroken = false;
  try {
    const { rows } = await client.query<{ got: boolean }>('SELECT pg_try_advisory_lock($1, $2) AS got', [kind, id]);
    if (!rows[0]?.got) return;
    try {
      await work();
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
