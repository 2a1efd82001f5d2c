import { sql } from 'drizzle-orm';
import { turnOf } from '@fulvet/core';
import type { RunTurn } from '@fulvet/core';
import { announce } from '../../base/live/changes';
import type { Services } from '../../base/services';
import { WokenLoop } from '../../base/wokenLoop';
import { noteTurn, SERIES_QUEUE } from './begin';
import type { DueRun, RunFacts } from './dueRun';
import { factsOf, LOOK_SECONDS, secondsToNextRun, takeRun } from './dueRun';
import { beginEmail, prepareEmail } from './stepEmail';
import { stopRun } from './stopRun';

/** Where the process ends in tests, as a kill would end it. */
export type SeriesFault = (at: 'taken' | 'begun' | 'written' | 'noted') => Promise<void> | void;

const WAITS = {
  absent: 'They are away: an absence note came. The next step waits.',
  limit: 'The mailbox has sent as many emails by itself today as the workspace lets it. The next step waits for the next working day.',
  pace: '',
} as const;

/** Goes on with series, as one of any number of processes. Each step is begun once; what a process that died was at is taken over. */
export class SeriesRunner {
  private readonly loop: WokenLoop;

  constructor(
    private readonly services: Services,
    private readonly fault: SeriesFault = () => undefined,
  ) {
    const { database } = services;
    this.loop = new WokenLoop(services, {
      name: 'series',
      queue: SERIES_QUEUE,
      atOnce: 1,
      next: () => this.takeNext(),
      secondsToNext: () => secondsToNextRun(database.worker),
    });
  }

  start(): void {
    this.loop.start();
  }

  stop(): Promise<void> {
    return this.loop.stop();
  }

  /** @returns whether there was one */
  async takeNext(now = Date.now()): Promise<boolean> {
    const { database, log } = this.services;
    const run = await takeRun(database.worker);
    if (!run) return false;
    try {
      await this.fault('taken');
      const facts = await factsOf(database.worker, run, now);
      const turn = turnOf(facts.situation, now, facts.days);
      await this.take(run, facts, turn, now);
      await this.fault('noted');
      if (turn.does !== 'nothing') await announce(database.worker, { kind: 'progress', of: SERIES_QUEUE, to: [run.writer_id] });
    } catch (error) {
      // Looked at again when its lease runs out.
      log.error({ err: error, run: run.id }, 'a series is left for later');
    }
    return true;
  }

  private async take(run: DueRun, facts: RunFacts, turn: RunTurn, now: number): Promise<void> {
    const { database } = this.services;
    switch (turn.does) {
      case 'stop':
        return database.work((tx) => stopRun(tx, run.id, turn.why, { emailId: facts.stop?.emailId ?? null }));
      case 'begin':
        await beginEmail(this.services, run, now);
        await this.fault('begun');
        // Of an email to many no one looks at each; what is late goes on in its turn.
        return this.prepare(run, turn.asks && run.bulk_id === null);
      case 'prepare':
        return this.prepare(run, run.asks);
      case 'go on':
      case 'end':
        return this.noteDone(run, facts, turn);
      case 'wait':
        return this.note(run, sql`due_at = ${new Date(turn.dueAt)}, problem = ${WAITS[turn.because]}, ${lookAt(turn.dueAt)}`);
      case 'say':
        return this.note(run, sql`state = ${turn.state}, ${lookAt(now)}`);
      case 'nothing':
        return this.note(run, lookAt(run.due_at));
    }
  }

  private async prepare(run: DueRun, asks: boolean): Promise<void> {
    await prepareEmail(this.services, run, asks, () => this.fault('written'));
  }

  private noteDone(run: DueRun, { messageId, subject, situation }: RunFacts, turn: RunTurn): Promise<void> {
    const sentAt = situation.email !== null && situation.email !== 'gone' ? situation.email.sentAt : null;
    return this.services.database.work(async (tx) => {
      // Whoever was here before has noted it: it is noted once.
      const { rowCount } = await tx.execute(
        sql`UPDATE series_steps SET message_id = ${messageId}, subject = ${subject}, done_at = ${new Date(sentAt ?? run.due_at)} WHERE run_id = ${run.id} AND step = ${run.at_step} AND done_at IS NULL`,
      );
      if (rowCount) await noteTurn(tx, run.id, turn);
    });
  }

  private async note(run: DueRun, what: ReturnType<typeof sql>): Promise<void> {
    await this.services.database.worker.execute(
      sql`UPDATE series_runs r SET ${what} WHERE r.id = ${run.id} AND r.state = ${run.state} AND r.at_step = ${run.at_step}`,
    );
  }
}

/** When it is due, or within minutes: an answer is seen by then. */
const lookAt = (dueAt: number) =>
  sql`look_at = CASE WHEN ${new Date(dueAt)}::timestamptz > now() THEN least(${new Date(dueAt)}::timestamptz, now() + make_interval(secs => ${LOOK_SECONDS})) ELSE now() + make_interval(secs => ${LOOK_SECONDS}) END`;
