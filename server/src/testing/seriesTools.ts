import { until } from './mailboxTools';
import { routeTo } from './routeTo';
import type { Answer } from './testServer';
import { owner } from './testServer';
import { good } from './documentTools';
import { crew, rep, stage } from './writingStage';

/** Emails that are sent by themselves, as an administrator sets it; in tests a mailbox does not rest between two. */
export const setAutomatic = (more: object = {}): Promise<Answer> =>
  stage.server.call(routeTo('putWorkspace'), {
    token: crew.tokens.admin,
    body: { automatic: { holidays: [], perDay: 500, pauseSeconds: 0, isHeld: false, ...more } },
  });

// Series, as members keep and begin them: for the tests of series.

export type Step = { kind: 'email' | 'task'; waitDays: number; templateId?: number; text?: string };

export const template = async (subject: string, html: string, more: object = {}): Promise<number> =>
  good(await rep(routeTo('createTemplate'), { body: { kind: 'template', name: subject || 'A step', subject, html, ...more } })).id;

export const email = (templateId: number, waitDays = 0): Step => ({ kind: 'email', waitDays, templateId });
export const task = (text: string, waitDays = 0): Step => ({ kind: 'task', waitDays, text });

export const keep = async (steps: Step[], more: object = {}): Promise<number> =>
  good(await rep(routeTo('createSeries'), { body: { name: 'After a fair', steps, ...more } })).id;

export const begin = (id: number, address: string, more: object = {}, token = crew.tokens.rep): Promise<Answer> =>
  stage.server.call(routeTo('startSeries', { id }), {
    token,
    body: { to: { name: 'Someone', address }, asks: false, zone: 'Europe/Berlin', ...more },
  });

export const runOf = async (id: number): Promise<Answer['json']> =>
  good(await rep(routeTo('listSeriesRuns'))).runs.find((run: { id: number }) => run.id === id);

/** Emails are handed over at once, and whoever goes on with series hears of it. */
async function handOver(): Promise<void> {
  await owner(stage.server.ownerUrl, `UPDATE outgoing SET due_at = now() WHERE state = 'due' AND due_at > now()`);
  for (const queue of ['series', 'outgoing'])
    await owner(stage.server.ownerUrl, `SELECT pg_notify('fulvet_changes', $1)`, [JSON.stringify({ kind: 'work', queue })]);
}

/** The next step is due now, too. */
export async function hurry(runId: number): Promise<void> {
  await owner(
    stage.server.ownerUrl,
    `UPDATE series_runs SET due_at = least(due_at, now()), look_at = now() WHERE id = $1 AND state NOT IN ('ended', 'stopped')`,
    [runId],
  );
  await handOver();
}

/** Hands over what is due until it is so; the next step waits for its time. */
export const sentUntil = (id: number, isSo: (run: Answer['json']) => boolean): Promise<Answer['json']> =>
  until(async () => {
    await handOver();
    return runOf(id);
  }, isSo);

/** Goes on with a series, without the days between its steps, until it is so. */
export const playedUntil = (id: number, isSo: (run: Answer['json']) => boolean): Promise<Answer['json']> =>
  until(async () => {
    await hurry(id);
    return runOf(id);
  }, isSo);

export const stoppedFor = async (id: number): Promise<string> =>
  (await playedUntil(id, ({ state }) => state === 'stopped' || state === 'ended')).why;

/** Waits until all that is done with an email that was sent is done: nothing is taken from under the hands of a process then. */
export const finishedWith = (messageId: string): Promise<unknown> =>
  until(
    () =>
      owner(
        stage.server.ownerUrl,
        'SELECT FROM outgoing o JOIN emails e ON e.id = o.email_id WHERE o.message_id = $1 AND o.copied AND o.source IS NULL AND e.decided_at IS NOT NULL',
        [messageId],
      ),
    (rows) => rows.length === 1,
  );

export const goneFromOutgoing = (subject: string): Promise<unknown> =>
  until(
    () => owner(stage.server.ownerUrl, 'SELECT FROM outgoing WHERE subject = $1', [subject]),
    (rows) => rows.length === 0,
  );
