import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { SeriesRun, startSeries, User } from '@fulvet/contract';
import { domainOf, firstDueAt, stepDone } from '@fulvet/core';
import type { RunTurn, WorkingDays } from '@fulvet/core';
import type { Db, Tx } from '../../base/db/database';
import { idRow, json, rowsOf } from '../../base/db/rows';
import type { StoredStep } from '../../base/db/schema';
import { announce } from '../../base/live/changes';
import { isRefusal, notFound, Refusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import { demandSeen } from '../../records/seenRecords';
import { liveRulebook } from '../../rulebook/liveRulebook';
import { MAY_NOT_SEND, NO_MAILBOX, notYours } from '../drafts';
import { demandAgreement } from '../sending';
import { sendersOf, writingRightsOf } from '../senders/queries';
import { OPEN, runOf, runsWhere, seriesOf } from './queries';
import { stopRun } from './stopRun';

type Order = z.output<typeof startSeries>;

/** Who goes on with series hears by this that there is something to do. */
export const SERIES_QUEUE = 'series';
/** People to whom a member sends series at once. */
const MOST_RUNS = 2000;

const automaticRow = z.object({ holidays: json<{ day: string }[]>() });
const countRow = z.object({ count: z.number() });

/** The calendar of the workspace, by the clock of a zone. */
export async function workingDaysIn(db: Db | Tx, zone: string): Promise<WorkingDays> {
  const [row] = await rowsOf(db, automaticRow, sql`SELECT automatic -> 'holidays' AS holidays FROM workspace`);
  return { zone, holidays: new Set(row?.holidays.map(({ day }) => day)) };
}

/** The newest email that is stored, of everyone's mail: an answer to a colleague is an answer. */
export async function newestEmail(db: Db): Promise<number> {
  const [newest] = await rowsOf(db, idRow, sql`SELECT coalesce(max(id), 0)::int8 AS id FROM emails`);
  return newest?.id ?? 0;
}

/** Begins a series with someone. */
export async function beginSeries(services: Services, user: User, id: number, order: Order): Promise<SeriesRun | Refusal> {
  const { database } = services;
  const address = order.to.address.toLowerCase();
  const { compiled } = await liveRulebook(database);
  if (compiled.isOurs(address, domainOf(address)))
    return new Refusal('unfit', 'colleague', `${address} is a colleague. Series are for people of other companies.`);
  const newest = await newestEmail(database.worker);
  const begun = await database.as(user.id, async (tx): Promise<SeriesRun | Refusal> => {
    const found = await seriesOf(tx, id);
    if (!found || found.isRemoved) return notFound('series');
    const unseen = order.dealId === null ? null : await demandSeen(tx, [{ kind: 'deal', id: order.dealId }]);
    if (unseen) return unseen;
    const sender = await senderFor(tx, user, order);
    if (isRefusal(sender)) return sender;
    const unasked = await demandAgreement(tx, user, sender.mailboxId, false);
    if (unasked) return unasked;
    const [many] = await rowsOf(tx, countRow, sql`SELECT count(*)::int AS count FROM series_runs r WHERE ${OPEN}`);
    if ((many?.count ?? 0) >= MOST_RUNS)
      return new Refusal('conflict', 'too-many', `You have series with ${MOST_RUNS} people. Stop some of them first.`);
    const other = await demandNoOther(tx, address, order.instead);
    if (other) return other;
    const steps: StoredStep[] = found.steps.map(({ kind, waitDays, templateId, text }) => ({ kind, waitDays, templateId, text }));
    const dueAt = new Date(firstDueAt(steps, Date.now(), await workingDaysIn(tx, order.zone)));
    const made = await rowsOf(
      tx,
      idRow,
      sql`INSERT INTO series_runs (series_id, series_name, writer_id, mailbox_id, from_address, address, name, deal_id, zone, asks, steps, due_at, look_at, after_email)
        VALUES (${id}, ${found.name}, ${user.id}, ${sender.mailboxId}, ${sender.isAlias ? sender.address : null}, ${address}, ${order.to.name}, ${order.dealId}, ${order.zone}, ${order.asks}, ${JSON.stringify(steps)}::jsonb, ${dueAt}, now(), ${newest})
        ON CONFLICT (address) WHERE state NOT IN ('ended', 'stopped') DO NOTHING RETURNING id`,
    );
    // Someone else began meanwhile.
    return made[0] ? ((await runOf(tx, made[0].id)) ?? notFound('series')) : OF_A_COLLEAGUE;
  });
  if (!isRefusal(begun)) await announce(database.worker, { kind: 'work', queue: SERIES_QUEUE });
  return begun;
}

async function senderFor(tx: Tx, user: User, { mailboxId, fromAddress }: Order) {
  const [sender] = await sendersOf(tx, user.id, mailboxId === null ? null : { mailboxId, fromAddress });
  if (sender) return sender;
  if (!(await writingRightsOf(tx, user.id)).maySend) return MAY_NOT_SEND;
  return mailboxId === null ? NO_MAILBOX : notYours();
}

const OF_A_COLLEAGUE = new Refusal(
  'conflict',
  'other-series',
  'A colleague has a series with this person. Wait until it has ended, or write to them yourself.',
);

const addressRow = z.object({ address: z.string() });
const foundRow = z.object({ found: z.boolean() });

/** No one gets two series at once, by whichever of their addresses. */
async function demandNoOther(tx: Tx, address: string, instead: boolean): Promise<Refusal | null> {
  const addresses = await rowsOf(
    tx,
    addressRow,
    sql`SELECT ${address}::text AS address UNION SELECT b.address FROM person_addresses a JOIN person_addresses b ON b.kind = a.kind AND b.person_id = a.person_id WHERE a.address = ${address}`,
  );
  const all = sql.param(addresses.map((row) => row.address));
  const mine = await runsWhere(tx, sql`r.address = ANY(${all}::text[]) AND ${OPEN}`, 10);
  if (mine.length > 0 && !instead)
    return new Refusal('conflict', 'own-series', `You have the series ${mine[0]?.name ?? ''} with this person. It would be stopped.`);
  for (const run of mine) await stopRun(tx, run.id, 'other series');
  const [row] = await rowsOf(tx, foundRow, sql`SELECT fulvet_has_series(${all}::text[]) AS found`);
  return row?.found ? OF_A_COLLEAGUE : null;
}

/** Stops a series with someone by hand. */
export function stopByHand({ database }: Pick<Services, 'database'>, user: User, id: number): Promise<SeriesRun | Refusal> {
  return database.as(user.id, async (tx) => {
    if (!(await runOf(tx, id))) return notFound('series');
    await stopRun(tx, id, 'by hand');
    return (await runOf(tx, id)) ?? notFound('series');
  });
}

const stepRow = z.object({ steps: json<StoredStep[]>(), at_step: z.number(), zone: z.string(), state: z.string() });

/** Says that the task of a step is done, or leaves out the email that is to be looked at. */
export async function goOn({ database }: Pick<Services, 'database'>, user: User, id: number): Promise<SeriesRun | Refusal> {
  const done = await database.as(user.id, async (tx): Promise<SeriesRun | Refusal> => {
    const [run] = await rowsOf(tx, stepRow, sql`SELECT steps, at_step, zone, state FROM series_runs WHERE id = ${id} FOR UPDATE`);
    if (!run) return notFound('series');
    const left = run.state === 'to look at' ? await leaveOut(tx, id, run.at_step) : run.state === 'to do';
    if (!left) return new Refusal('conflict', 'not-now', 'There is no task to be done, and no email to be left out now. Look at it again.');
    const now = Date.now();
    await tx.execute(sql`INSERT INTO series_steps (run_id, step, begun_at, done_at) VALUES (${id}, ${run.at_step}, ${new Date(now)}, ${new Date(now)})
      ON CONFLICT (run_id, step) DO UPDATE SET done_at = excluded.done_at`);
    await noteTurn(tx, id, stepDone({ steps: run.steps, atStep: run.at_step }, now, await workingDaysIn(tx, run.zone)));
    return (await runOf(tx, id)) ?? notFound('series');
  });
  if (!isRefusal(done)) await announce(database.worker, { kind: 'work', queue: SERIES_QUEUE });
  return done;
}

/** @returns whether its email was a draft still */
async function leaveOut(tx: Tx, id: number, step: number): Promise<boolean> {
  const rows = await rowsOf(
    tx,
    idRow,
    sql`DELETE FROM outgoing o USING series_steps s WHERE s.run_id = ${id} AND s.step = ${step} AND o.id = s.outgoing_id AND o.state = 'draft' RETURNING o.id`,
  );
  return rows.length > 0;
}

/** Notes that a step is done. */
export async function noteTurn(tx: Db | Tx, id: number, turn: RunTurn): Promise<void> {
  if (turn.does === 'end') await tx.execute(sql`UPDATE series_runs SET state = 'ended', problem = '', ended_at = now() WHERE id = ${id}`);
  if (turn.does === 'go on')
    await tx.execute(
      sql`UPDATE series_runs SET state = 'waiting', at_step = at_step + 1, due_at = ${new Date(turn.dueAt)}, look_at = now(), problem = '' WHERE id = ${id}`,
    );
}
