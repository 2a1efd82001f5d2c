import { sql } from 'drizzle-orm';
import PgBoss from 'pg-boss';
import { announce } from './base/live/changes';
import type { DecideScope } from './decision/decideRun';
import { runDecisions } from './decision/decideRun';
import { doWork, locked, putBackWork, unfinishedWork, workAbout } from './base/work';
import type { Task, WorkKind } from './base/work';
import { dropStaged, PAST_RUN_TEXTS, runOverPast } from './decision/past/pastRun';
import { endImport, IMPORT_TEXTS, runImport } from './mailboxes/files/importRun';
import { noteMailImport } from './mailboxes/files/undoMailImport';
import { queueDatabase } from './base/queueDatabase';
import type { Jobs, Services } from './base/services';
import { refreshReadings } from './emails/store/refreshReadings';
import { letGo } from './workspace/privacy/retention';
import { forgetEndedLinks } from './writing/documents/links';
import { runTrial, TRIAL_TEXTS } from './trials/runTrial';
import { CalendarReader } from './mailboxes/calendars/calendarTurn';
import { CHECK_QUEUE, MailWorker, sendTurn, TURN_QUEUE } from './mailboxes/imap/mailWorker';
import type { TurnLimits } from './mailboxes/imap/turnLimits';
import { TURN_LIMITS } from './mailboxes/imap/turnLimits';
import { Outbox } from './writing/outbox';
import { forgetMeasures } from './writing/measuring/measuredEmail';
import { forgetOldUnsubscribeLinks } from './writing/bulk/unsubscribeLink';
import { forgetEndedRuns } from './writing/series/forgetEndedRuns';
import { SeriesRunner } from './writing/series/seriesRunner';

const QUEUES = ['import-mail', 'decide-all', 'decide-concerned', 'decide-pending', 'retention', 'trial'] as const;
const MINUTE_MS = 60_000;
const HOUR_MS = 3_600_000;
const READING_LOCK = 460207;

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
  let stopWork: () => Promise<void> = () => Promise.resolve();
  const jobs: Jobs = {
    importMail: (importId) => SENDS.import(send, importId),
    decideAll: (runId) => SENDS['past run'](send, runId),
    decideConcerned: (scope) => send('decide-concerned', scope),
    runTrial: (trialId) => SENDS.trial(send, trialId),
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
  if (role.works) stopWork = await startWork({ ...services, jobs }, boss, send, role);
  return jobs;
}

/** Hands work on to the queue of its kind. */
const SENDS: Readonly<Record<WorkKind, (send: Send, about: number) => Promise<void>>> = {
  import: (send, importId) => send('import-mail', { importId }),
  'past run': (send, runId) => send('decide-all', { runId }),
  trial: (send, trialId) => send('trial', { trialId }),
};

type Queue = (typeof QUEUES)[number];
type Send = (queue: Queue, data: object) => Promise<void>;

/** @returns what ends it */
async function startWork(services: Services, boss: PgBoss, send: Send, role: JobsRole): Promise<() => Promise<void>> {
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
  const atWork = new Set<number>();
  const doing = async (kind: WorkKind, about: number, task: Task): Promise<void> => {
    const workId = await workAbout(database.worker, kind, about);
    if (workId !== null) await doWork(database, atWork, workId, task);
  };
  await handle<{ importId: number }>('import-mail', ({ importId }) =>
    doing('import', importId, {
      texts: IMPORT_TEXTS,
      run: (work) => runImport(database, blobs, uploads, importId, work),
      clearUp: () => noteMailImport(database.worker, importId),
    }).finally(() => endImport(database, uploads, importId)),
  );
  await handle<{ runId: number }>('decide-all', ({ runId }) =>
    doing('past run', runId, {
      texts: PAST_RUN_TEXTS,
      run: (work) => runOverPast(database, blobs, runId, work),
      clearUp: () => dropStaged(database, runId),
    }),
  );
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
    doing('trial', trialId, { texts: TRIAL_TEXTS, run: (work) => runTrial(database, blobs, trialId, work) }),
  );
  const takeUp = async (waiting: boolean): Promise<void> => {
    for (const { id, kind, about } of await unfinishedWork(database.worker, { waiting }))
      if (!atWork.has(id)) await SENDS[kind](send, about);
  };
  if (role.main) await takeUp(false);
  // What waits for room on the disk, or for the database, is taken up again.
  const waiting = setInterval(() => {
    takeUp(true).catch((error: unknown) => log.warn({ err: error }, 'waiting work'));
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
    forgetEndedLinks(database.worker).catch((error: unknown) => log.error({ err: error }, 'ended links'));
    forgetMeasures(database.worker).catch((error: unknown) => log.error({ err: error }, 'counted openings'));
    forgetOldUnsubscribeLinks(database.worker).catch((error: unknown) => log.error({ err: error }, 'links to unsubscribe'));
    forgetEndedRuns(database.worker).catch((error: unknown) => log.error({ err: error }, 'ended series'));
  }, HOUR_MS);
  daily.unref();
  const worker = role.worksOnMailboxes ? new MailWorker(services, boss, { ...TURN_LIMITS, ...role.turnLimits }) : null;
  worker?.start();
  const outbox = role.worksOnMailboxes ? new Outbox(services) : null;
  outbox?.start();
  const calendars = role.worksOnMailboxes ? new CalendarReader(services) : null;
  calendars?.start();
  const seriesRunner = role.worksOnMailboxes ? new SeriesRunner(services) : null;
  seriesRunner?.start();
  let isStopped = false;
  const refreshing = locked(database, READING_LOCK, 0, async () => {
    await refreshReadings(database, log, () => isStopped);
  }).catch((error: unknown) => log.error({ err: error }, 'stored texts were not read again'));
  return async () => {
    isStopped = true;
    await refreshing;
    deaf();
    clearInterval(daily);
    clearInterval(waiting);
    await putBackWork(database.worker, [...atWork]).catch((error: unknown) => log.error({ err: error }, 'work was not put back'));
    await worker?.stop();
    await seriesRunner?.stop();
    await outbox?.stop();
    await calendars?.stop();
  };
}
