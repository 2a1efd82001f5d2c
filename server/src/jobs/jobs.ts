import { sql } from 'drizzle-orm';
import PgBoss from 'pg-boss';
import type { BlobStore } from '../blobs/blobStore';
import type { Database } from '../db/database';
import { announce } from '../live/changes';
import type { DecideScope } from '../decide/decideRun';
import { runDecisions } from '../decide/decideRun';
import { runImport } from '../ingest/importRun';
import type { Jobs, Services } from '../services';
import { runTrial } from '../trial/runTrial';
import { CHECK_QUEUE, MailWorker, sendTurn, TURN_QUEUE } from '../sync/mailWorker';
import type { TurnLimits } from '../sync/turn';
import { TURN_LIMITS } from '../sync/turn';

const QUEUES = ['import-mail', 'decide-all', 'decide-concerned', 'decide-pending', 'trial'] as const;

/**
 * Starts the queue and its workers in this process.
 *
 * @param role main: the process that serves requests; it takes up what a dead one left unfinished
 */
export async function startJobs(
  services: Omit<Services, 'jobs'>,
  role: { main: boolean; worksOnMailboxes: boolean; turnLimits: Partial<TurnLimits> },
): Promise<Jobs> {
  const { database, blobs, uploads, log } = services;
  const boss = new PgBoss({
    db: { executeSql: (text, values) => database.workerPool.query(text, values) },
    schema: 'pgboss',
    schedule: false,
  });
  boss.on('error', (error) => log.error({ err: error }, 'job queue'));
  await boss.start();
  for (const queue of QUEUES) await boss.createQueue(queue);
  // At most one turn or check of a mailbox waits, and one is at work.
  for (const queue of [TURN_QUEUE, CHECK_QUEUE]) await boss.createQueue(queue, { name: queue, policy: 'stately' });
  const handle = <T extends object>(queue: (typeof QUEUES)[number], work: (data: T) => Promise<void>): Promise<string> =>
    boss.work<T>(queue, { pollingIntervalSeconds: 0.5 }, async ([job]) => {
      if (!job) return;
      try {
        await work(job.data);
      } catch (error) {
        log.error({ err: error, queue }, 'job failed');
      }
    });
  await handle<{ importId: number }>('import-mail', ({ importId }) =>
    once(database, importId, () => runImport(database, blobs, uploads, importId)),
  );
  await handle<{ runId: number }>('decide-all', ({ runId }) => decideAll(database, blobs, runId));
  await handle<Exclude<DecideScope, string>>('decide-concerned', async (scope) => {
    await runDecisions(database, blobs, scope);
  });
  await handle('decide-pending', async () => {
    await runDecisions(database, blobs, 'undecided');
  });
  await handle<{ trialId: number }>('trial', ({ trialId }) => runTrial(database, blobs, trialId));
  const send = async (queue: (typeof QUEUES)[number], data: object): Promise<void> => {
    await boss.send(queue, data, { retryLimit: 0, expireInHours: 23 });
  };
  if (role.main) await takeUpUnfinished(database, send);
  const worker = role.worksOnMailboxes ? new MailWorker(services, boss, { ...TURN_LIMITS, ...role.turnLimits }) : null;
  worker?.start();
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
      await worker?.stop();
      await boss.stop({ graceful: true, timeout: 5000 });
    },
  };
}

async function takeUpUnfinished(database: Database, send: (queue: 'import-mail', data: object) => Promise<void>): Promise<void> {
  const left = await database.worker.execute<{ id: number }>(sql`SELECT id FROM imports WHERE state IN ('queued', 'running') ORDER BY id`);
  for (const { id } of left.rows) await send('import-mail', { importId: id });
  await database.worker.execute(
    sql`UPDATE trials SET state = 'failed', message = 'The server ended before the trial did. Start it again.', finished_at = now() WHERE state IN ('queued', 'running')`,
  );
  await database.worker.execute(
    sql`UPDATE decide_runs SET state = 'failed', message = 'The server ended before the run did. Start it again; what was decided stands.', finished_at = now() WHERE state IN ('queued', 'running')`,
  );
}

/** Runs work unless another process is at the same import. */
async function once(database: Database, importId: number, work: () => Promise<void>): Promise<void> {
  const client = await database.workerPool.connect();
  try {
    const { rows } = await client.query<{ got: boolean }>('SELECT pg_try_advisory_lock(460300, $1) AS got', [importId]);
    if (!rows[0]?.got) return;
    try {
      await work();
    } finally {
      await client.query('SELECT pg_advisory_unlock(460300, $1)', [importId]);
    }
  } finally {
    client.release();
  }
}

async function decideAll(database: Database, blobs: BlobStore, runId: number): Promise<void> {
  const db = database.worker;
  let cancelAsked = false;
  await db.execute(sql`UPDATE decide_runs SET state = 'running', version = (SELECT max(version) FROM rulebooks) WHERE id = ${runId}`);
  // What the runs before the last ten changed can no longer be undone.
  await db.execute(sql`DELETE FROM run_befores WHERE run_id <= ${runId} - 10`);
  try {
    const report = await runDecisions(database, blobs, 'all', {
      runId,
      isCancelled: () => cancelAsked,
      onProgress: async ({ done, total }) => {
        const { rows } = await db.execute<{ cancel_asked: boolean }>(
          sql`UPDATE decide_runs SET done = ${done}, total = ${total} WHERE id = ${runId} RETURNING cancel_asked`,
        );
        cancelAsked = rows[0]?.cancel_asked ?? true;
      },
    });
    await db.execute(
      sql`UPDATE decide_runs SET state = ${report.cancelled ? 'cancelled' : 'done'}, changed = ${report.changed}, finished_at = now() WHERE id = ${runId}`,
    );
  } catch (error) {
    await db.execute(
      sql`UPDATE decide_runs SET state = 'failed', finished_at = now(), message = ${error instanceof Error ? error.message.slice(0, 500) : 'unknown'} WHERE id = ${runId}`,
    );
    throw error;
  }
}
