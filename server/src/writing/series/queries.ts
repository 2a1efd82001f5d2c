import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { z } from 'zod';
import type { SeriesDetail, SeriesRow, SeriesRun } from '@fulvet/contract';
import { keptScope, stopReason } from '@fulvet/contract';
import type { RunState } from '@fulvet/core';
import type { Tx } from '../../base/db/database';
import { json, moment, rowsOf } from '../../base/db/rows';
import type { StoredStep } from '../../base/db/schema';

const seriesShape = z.object({
  id: z.number(),
  name: z.string(),
  scope: keptScope,
  team: json<SeriesRow['team']>().nullable(),
  language: z.string(),
  owner: z.string(),
  is_mine: z.boolean(),
  removed_at: moment.nullable(),
  changed_at: moment,
  revision: z.number(),
  steps: json<SeriesDetail['steps']>(),
  open: z.number(),
});

const MOST_LISTED = 500;
/** Those that go on. */
export const OPEN = sql`r.state NOT IN ('ended', 'stopped')`;

const COLUMNS = sql`s.id, s.name, s.scope, CASE WHEN m.id IS NOT NULL THEN json_build_object('id', m.id, 'name', m.name) END AS team, s.language, u.name AS owner,
  s.owner_id = me.id OR (s.scope <> 'own' AND me.role = 'admin') AS is_mine, s.removed_at, s.changed_at, s.revision,
  (SELECT coalesce(json_agg(step || jsonb_build_object('template', (SELECT t.name FROM templates t WHERE t.id = (step ->> 'templateId')::bigint AND t.removed_at IS NULL)) ORDER BY place), '[]'::json) FROM jsonb_array_elements(s.steps) WITH ORDINALITY l(step, place)) AS steps,
  (SELECT count(*)::int FROM series_runs r WHERE r.series_id = s.id AND ${OPEN}) AS open`;
const FROM = sql`series s JOIN users u ON u.id = s.owner_id LEFT JOIN teams m ON m.id = s.team_id JOIN users me ON me.id = fulvet_acting_user()`;

const asDetail = ({ is_mine, removed_at, changed_at, ...rest }: z.infer<typeof seriesShape>): SeriesDetail => ({
  ...rest,
  stepCount: rest.steps.length,
  isMine: is_mine,
  isRemoved: removed_at !== null,
  changedAt: changed_at,
});

/** Series that the acting user finds, by parts of their names. */
export async function listSeries(tx: Tx, text: string): Promise<SeriesRow[]> {
  const parts = text.toLowerCase().split(/\s+/).filter(Boolean);
  const rows = await rowsOf(
    tx,
    seriesShape,
    sql`SELECT ${COLUMNS} FROM ${FROM} WHERE s.removed_at IS NULL
      AND (SELECT bool_and(strpos(lower(concat_ws(' ', s.name, s.language)), part) > 0) FROM unnest(${sql.param(parts)}::text[]) part) IS NOT false
    ORDER BY lower(s.name), s.id LIMIT ${MOST_LISTED}`,
  );
  return rows.map((found) => {
    const { steps: _steps, revision: _revision, ...listed } = asDetail(found);
    return listed;
  });
}

/** A series that the acting user finds; null: there is none. */
export async function seriesOf(tx: Tx, id: number): Promise<SeriesDetail | null> {
  const [found] = await rowsOf(tx, seriesShape, sql`SELECT ${COLUMNS} FROM ${FROM} WHERE s.id = ${id}`);
  return found ? asDetail(found) : null;
}

const runShape = z.object({
  id: z.number(),
  series_id: z.number().nullable(),
  series_name: z.string(),
  address: z.string(),
  name: z.string(),
  state: json<RunState>(),
  at_step: z.number(),
  steps: json<StoredStep[]>(),
  outgoing_id: z.number().nullable(),
  due_at: moment,
  asks: z.boolean(),
  why: stopReason.nullable(),
  problem: z.string(),
  stopped_by_email: z.number().nullable(),
  started_at: moment,
  ended_at: moment.nullable(),
});

const asRun = (row: z.infer<typeof runShape>): SeriesRun => ({
  id: row.id,
  seriesId: row.series_id,
  name: row.series_name,
  to: { name: row.name, address: row.address },
  // While an email is being written it is as good as on its way.
  state: row.state === 'preparing' ? 'sending' : row.state,
  atStep: Math.min(row.at_step + 1, row.steps.length),
  stepCount: row.steps.length,
  task: row.state === 'to do' ? (row.steps[row.at_step]?.text ?? '') : null,
  outgoingId: row.outgoing_id,
  dueAt: row.due_at,
  asks: row.asks,
  why: row.why,
  problem: row.problem,
  stoppedByEmail: row.stopped_by_email,
  startedAt: row.started_at,
  endedAt: row.ended_at,
});

/** With whom the acting user has series, what needs them first. */
export async function runsWhere(tx: Tx, which: SQL, limit: number): Promise<SeriesRun[]> {
  const rows = await rowsOf(
    tx,
    runShape,
    sql`SELECT r.id, r.series_id, r.series_name, r.address, r.name, r.state, r.at_step, r.steps, p.outgoing_id, r.due_at, r.asks, r.why, r.problem, e.id AS stopped_by_email, r.started_at, r.ended_at
      FROM series_runs r LEFT JOIN series_steps p ON p.run_id = r.id AND p.step = r.at_step AND p.done_at IS NULL LEFT JOIN emails e ON e.id = r.stopped_by_email
      WHERE ${which} ORDER BY array_position(ARRAY['to look at', 'to do', 'preparing', 'sending', 'waiting', 'stopped', 'ended'], r.state), CASE WHEN ${OPEN} THEN r.due_at END, r.ended_at DESC, r.id LIMIT ${limit}`,
  );
  return rows.map(asRun);
}

export async function runOf(tx: Tx, id: number): Promise<SeriesRun | null> {
  const [found] = await runsWhere(tx, sql`r.id = ${id}`, 1);
  return found ?? null;
}

/** @param asked with whom, of which series, and whether only those that go on */
export const listRuns = (
  tx: Tx,
  {
    address,
    seriesId,
    open,
    limit,
  }: { address?: string | undefined; seriesId?: number | undefined; open: 'true' | 'false'; limit: number },
): Promise<SeriesRun[]> =>
  runsWhere(
    tx,
    sql`${address === undefined ? sql`true` : sql`r.address = ${address.toLowerCase()}`} AND ${seriesId === undefined ? sql`true` : sql`r.series_id = ${seriesId}`} AND ${open === 'true' ? OPEN : sql`true`}`,
    limit,
  );

const MOST_SHOWN = 8;

/** Series of the acting user whose step waits for them. */
export const runsThatWait = (tx: Tx): Promise<SeriesRun[]> => runsWhere(tx, sql`r.state IN ('to look at', 'to do')`, MOST_SHOWN);
