import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { CHECK_STEPS } from '@fulvet/core';
import type { CheckStep } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { randomBytes } from 'node:crypto';
import { hostname } from 'node:os';
import { setTimeout as pause } from 'node:timers/promises';
import type PgBoss from 'pg-boss';
import { runDecisions } from '../../decision/decideRun';
import { followLateActivity } from '../../decision/followLateActivity';
import type { ChangeListener } from '../../base/live/changes';
import { runChecks } from '../connect/runChecks';
import { loadMailbox } from '../mailbox';
import { ConnectionSlots } from './connectionSlots';
import { Lease } from './lease';
import type { TurnServices } from './batchStore';
import type { TurnLimits } from './turnLimits';
import { MailboxTurn } from './mailboxTurn';
import { NO_SLOT_MS, TURN_LIMITS } from './turnLimits';

export const TURN_QUEUE = 'mailbox-turn';
export const CHECK_QUEUE = 'mailbox-check';

export interface MailWorkerServices extends TurnServices {
  changes: ChangeListener;
}

const LOOK_FOR_WORK_MS = 300;
const HEARTBEAT_MS = 3000;
/** In heartbeats. */
const DECIDE_LEFT_EVERY = 5;
/** What late mail changed for others is followed when no more has come for so long. */
const QUIET_SECONDS = 10;
/** A turn that ended by a fault of our own is taken up again after this. */
const FAULT_RETRY_MS = 10_000;
/** Between taking a job up and taking the lease lies less. */
const LOST_SECONDS = 20;
const MOST_TURNS = 60;
const MOST_CHECKS = 8;

interface Running {
  turn: MailboxTurn | null;
  stop: AbortController;
  host: string;
  done: Promise<void>;
}

/** Sends the next turn of a mailbox; one that waits already is kept. */
export async function sendTurn(boss: PgBoss, mailboxId: number, afterMs = 0): Promise<void> {
  await boss.send(
    TURN_QUEUE,
    { mailboxId },
    { singletonKey: String(mailboxId), startAfter: new Date(Date.now() + afterMs), retryLimit: 0, expireInHours: 23 },
  );
}

const dueMailboxRow = z.object({ id: z.number(), lease_job: z.string().nullable(), host: z.string().nullable(), due: z.number() });

const jobRow = z.object({ id: z.string() });

/**
 * Works on mailboxes, many at once, as one of any number of processes. Each mailbox is a job of the queue under a lease; when a
 * process dies its leases run out, and the others take its mailboxes over.
 */
export class MailWorker {
  readonly holder = `${hostname()}:${process.pid}:${randomBytes(4).toString('hex')}`;
  private readonly running = new Map<number, Running>();
  private readonly checks = new Set<Promise<void>>();
  private readonly slots: ConnectionSlots;
  private crowdedHosts: ReadonlySet<string> = new Set();
  private stopping = false;
  private readonly stopped = new AbortController();
  private beats = 0;
  private decidingLeft: Promise<void> | null = null;
  private loops: Promise<void>[] = [];
  private deaf: () => void = () => undefined;

  constructor(
    private readonly services: MailWorkerServices,
    private readonly boss: PgBoss,
    private readonly limits: TurnLimits = TURN_LIMITS,
  ) {
    this.slots = new ConnectionSlots(services.database.workerPool);
  }

  start(): void {
    this.deaf = this.services.changes.hear((change) => {
      if (change.kind === 'wake') this.running.get(change.id)?.turn?.wake();
    });
    this.loops = [this.every(LOOK_FOR_WORK_MS, () => this.takeWork()), this.every(HEARTBEAT_MS, () => this.heartbeat())];
  }

  async stop(): Promise<void> {
    this.stopping = true;
    this.stopped.abort();
    this.deaf();
    for (const running of this.running.values()) running.stop.abort();
    await Promise.all([...this.loops, ...[...this.running.values()].map((running) => running.done), ...this.checks, this.decidingLeft]);
    await this.slots.stop();
  }

  private async every(ms: number, work: () => Promise<void>): Promise<void> {
    while (!this.stopping) {
      await work().catch((error: unknown) => this.services.log.error({ err: error }, 'mail worker'));
      // A worker that stops does not sit its pause out.
      await pause(ms, undefined, { signal: this.stopped.signal }).catch(() => undefined);
    }
  }

  private async takeWork(): Promise<void> {
    const room = MOST_TURNS - this.running.size;
    if (room > 0) {
      for (const job of (await this.boss.fetch<{ mailboxId: number }>(TURN_QUEUE, { batchSize: room })) ?? [])
        this.begin(job.id, job.data.mailboxId);
    }
    const checkRoom = MOST_CHECKS - this.checks.size;
    if (checkRoom <= 0) return;
    for (const job of (await this.boss.fetch<{ mailboxId: number; from: CheckStep }>(CHECK_QUEUE, { batchSize: checkRoom })) ?? []) {
      const done = runChecks(this.services, job.data.mailboxId, CHECK_STEPS.includes(job.data.from) ? job.data.from : 'name')
        .catch((error: unknown) => this.services.log.error({ err: error }, 'mailbox check'))
        .then(() => this.boss.complete(CHECK_QUEUE, job.id))
        .catch(() => undefined)
        .then(() => {
          this.checks.delete(done);
        });
      this.checks.add(done);
    }
  }

  private begin(jobId: string, mailboxId: number): void {
    const running: Running = { turn: null, stop: new AbortController(), host: '', done: Promise.resolve() };
    this.running.set(mailboxId, running);
    running.done = this.work(jobId, mailboxId, running)
      .catch((error: unknown) => this.services.log.error({ err: error, mailbox: mailboxId }, 'mailbox turn'))
      .finally(() => this.running.delete(mailboxId));
  }

  private async work(jobId: string, mailboxId: number, running: Running): Promise<void> {
    const db = this.services.database.worker;
    let againInMs: number | null = null;
    try {
      const lease = await Lease.take(db, mailboxId, this.holder, jobId);
      if (!lease) return;
      againInMs = FAULT_RETRY_MS;
      try {
        againInMs = await this.turn(mailboxId, lease, running);
      } finally {
        await lease.release(db);
        // Stopping processes hand their mailboxes on at once.
        if (this.stopping) againInMs = 0;
      }
    } finally {
      // Whatever went wrong: a job that is not completed keeps its mailbox from having another.
      await this.boss.complete(TURN_QUEUE, jobId);
      if (againInMs !== null) await sendTurn(this.boss, mailboxId, againInMs);
    }
  }

  private async turn(mailboxId: number, lease: Lease, running: Running): Promise<number | null> {
    const mailbox = await loadMailbox(this.services.database.worker, mailboxId);
    if (!mailbox?.connection) return null;
    running.host = mailbox.connection.imap.host;
    const most = this.services.presets.get(mailbox.connection.preset).connections;
    const giveBack = await this.slots.take(running.host, most);
    if (!giveBack) return NO_SLOT_MS;
    try {
      const turn = new MailboxTurn(this.services, mailbox, lease, running.stop.signal, this.limits, {
        othersWait: () => this.crowdedHosts.has(running.host),
        takeSlot: async () => (this.crowdedHosts.has(running.host) ? null : this.slots.take(running.host, most)),
      });
      running.turn = turn;
      return (await turn.run()).againInMs;
    } finally {
      await giveBack();
    }
  }

  /** Renews the leases, lets go of those that are lost, and takes up mailboxes whose process died. */
  private async heartbeat(): Promise<void> {
    const db = this.services.database.worker;
    const held = await Lease.renew(db, this.holder, [...this.running.keys()]);
    this.beats += 1;
    // Not waited for: leases have to be renewed meanwhile.
    if (this.beats % DECIDE_LEFT_EVERY === 0 && this.decidingLeft === null)
      this.decidingLeft = this.decideLeft()
        .catch((error: unknown) => this.services.log.error({ err: error }, 'deciding what was left'))
        .finally(() => (this.decidingLeft = null));
    for (const [id, running] of this.running) if (running.turn && !held.has(id)) running.stop.abort();
    const rows = await rowsOf(
      db,
      dueMailboxRow,
      sql`
      SELECT id, lease_job, connection -> 'imap' ->> 'host' AS host, greatest(0, coalesce((problem ->> 'retryAt')::float8, 0) - extract(epoch FROM now()) * 1000)::float8 AS due
      FROM mailboxes WHERE state = 'running' AND (lease_until IS NULL OR lease_until < now()) ORDER BY id LIMIT 500`,
    );
    this.crowdedHosts = new Set(rows.filter((row) => row.due === 0).map((row) => row.host ?? ''));
    for (const row of rows) {
      if (row.lease_job !== null) await this.clearDead(row.id, row.lease_job);
      else if (!this.running.has(row.id)) await this.clearLost(row.id);
      await sendTurn(this.boss, row.id, row.due);
    }
  }

  /** What a process that died, or a run that failed, left undecided is decided by whoever is there; then what late mail may have changed. */
  private async decideLeft(): Promise<void> {
    const { rowCount } = await this.services.database.worker.execute(sql`SELECT FROM emails WHERE decided_at IS NULL LIMIT 1`);
    const { database, blobs } = this.services;
    if (rowCount) await runDecisions(database, blobs, 'undecided');
    await followLateActivity(database, blobs, QUIET_SECONDS);
  }

  /** A job that is held to be at work, while no one has had a lease for long, was never completed. */
  private async clearLost(mailboxId: number): Promise<void> {
    const rows = await rowsOf(
      this.services.database.worker,
      jobRow,
      sql`SELECT id FROM pgboss.job WHERE name = ${TURN_QUEUE} AND state = 'active' AND singleton_key = ${String(mailboxId)} AND started_on < now() - make_interval(secs => ${LOST_SECONDS})`,
    );
    for (const { id } of rows) await this.boss.cancel(TURN_QUEUE, id);
  }

  private async clearDead(mailboxId: number, jobId: string): Promise<void> {
    const { rowCount } = await this.services.database.worker.execute(
      sql`UPDATE mailboxes SET lease_holder = NULL, lease_until = NULL, lease_job = NULL WHERE id = ${mailboxId} AND lease_job = ${jobId} AND lease_until < now()`,
    );
    if (rowCount) await this.boss.cancel(TURN_QUEUE, jobId);
  }
}
