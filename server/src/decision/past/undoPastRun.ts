import { decideRuns, runBefores } from '../../base/db/schema';
import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { SENDER_CHECKS } from '@fulvet/core';
import { sql, eq } from 'drizzle-orm';
import type { Sources } from '../../base/reading/sources';
import type { Concerned } from '../../base/concerned';
import type { Database, Tx } from '../../base/db/database';
import { takeMailLock } from '../../base/db/mailLock';
import { mayBePersonIn } from '../../base/db/personKey';
import { dropContents, insertContents } from '../../emails/contents';
import { MADE_KINDS, removeRecords } from '../../records/recordSnapshot';
import { whatDependsOn } from '../../records/whatDependsOn';
import type { CreatedRecord } from '../keptForUndo';
import { giveBackMade } from './takeBackCreated';

/** What an undo did. */
export interface UndoReport {
  /** Emails that stand again as they stood. */
  restored: number;
  /** Emails that were decided again since; they are decided again instead. */
  again: number;
  removed: number;
  /** Records that the run had taken back, and that are there again. */
  back: number;
  /** Those that stay away, since another record has their address by now. */
  away: { kind: CreatedRecord['kind']; id: number; name: string }[];
  /** Records that stay, since something else has come to depend on them. */
  kept: { kind: CreatedRecord['kind']; id: number; name: string; because: string }[];
}

const runBeforeRow = z.object({ email_id: z.number(), whole: z.boolean(), later: z.boolean(), was_out: z.boolean(), is_out: z.boolean() });

/**
 * Undoes a run over past mail as one step, in one transaction: filings, outcomes, visibility and decisions stand as they stood. A record
 * that the run created goes, unless something else has come to depend on it. Emails that were decided again since the run are left
 * to be decided again.
 *
 * @param fromVersion a rulebook version that is taken back too: what was decided by it since is left to be decided again as well
 */
export function undoPastRun(database: Database, blobs: Sources, runId: number, fromVersion: number | null): Promise<UndoReport> {
  return database.work(async (tx) => {
    await takeMailLock(tx);
    const rows = await rowsOf(
      tx,
      runBeforeRow,
      sql`
      SELECT b.email_id, b.filings IS NOT NULL AS whole, coalesce(e.decided_at > w.finished_at, true) AS later, b.email ->> 'outcome' IS NOT DISTINCT FROM 'kept out' AS was_out, e.outcome IS NOT DISTINCT FROM 'kept out' AS is_out
      FROM run_befores b JOIN emails e ON e.id = b.email_id JOIN decide_runs r ON r.id = b.run_id JOIN work w ON w.id = r.work_id WHERE b.run_id = ${runId} FOR UPDATE OF e`,
    );
    const whole = rows.filter((row) => row.whole);
    const restored = whole.filter((row) => !row.later);
    const { back, away, concerned } = await giveBackMade(tx, runId);
    const again = whole.filter((row) => row.later).map((row) => row.email_id);
    await restoreContents(
      tx,
      blobs,
      restored.filter((row) => row.is_out && !row.was_out).map((row) => row.email_id),
    );
    await restoreDecisions(
      tx,
      runId,
      restored.map((row) => row.email_id),
    );
    await dropContents(
      tx,
      restored.filter((row) => row.was_out).map((row) => row.email_id),
    );
    await tx.execute(
      sql`UPDATE emails e SET rulebook_version = (b.email ->> 'rulebook_version')::int FROM run_befores b WHERE b.run_id = ${runId} AND b.filings IS NULL AND b.email_id = e.id`,
    );
    const anew = await tx.execute(
      sql`UPDATE emails SET decided_at = NULL WHERE id = ANY(${sql.param(again)}::bigint[]) OR (${fromVersion}::int IS NOT NULL AND rulebook_version >= ${fromVersion}::int)`,
    );
    const since = await openSince(tx, runId, concerned);
    const kept = await removeCreated(tx, runId);
    const { rowCount } = await tx.execute(sql`SELECT FROM run_created WHERE run_id = ${runId}`);
    await tx
      .update(decideRuns)
      .set({ undoneAt: sql`now()` })
      .where(eq(decideRuns.id, runId));
    await tx.delete(runBefores).where(eq(runBefores.runId, runId));
    return { restored: restored.length, again: (anew.rowCount ?? 0) + since, removed: (rowCount ?? 0) - kept.length, kept, back, away };
  });
}

/** Leaves mail that was decided since the run to be decided again where records concern it that are back. @returns how many emails */
async function openSince(tx: Tx, runId: number, { addresses, domains }: Concerned): Promise<number> {
  if (addresses.length + domains.length === 0) return 0;
  const { rowCount } = await tx.execute(sql`
    UPDATE emails e SET decided_at = NULL WHERE e.decided_at > (SELECT w.finished_at FROM decide_runs r JOIN work w ON w.id = r.work_id WHERE r.id = ${runId})
      AND (e.external_domains && ${sql.param(domains)}::text[] OR EXISTS (SELECT FROM participants p WHERE p.email_id = e.id AND ${mayBePersonIn(sql`p.address`, sql`${sql.param(addresses)}::text[]`)}))`);
  return rowCount ?? 0;
}

async function restoreDecisions(tx: Tx, runId: number, ids: readonly number[]): Promise<void> {
  const these = sql`b.run_id = ${runId} AND b.email_id = ANY(${sql.param([...ids])}::bigint[])`;
  await tx.execute(sql`UPDATE emails e SET direction = b.email ->> 'direction', outcome = b.email ->> 'outcome', visibility = b.email ->> 'visibility', shared_teams = ARRAY(SELECT jsonb_array_elements_text(coalesce(b.email -> 'shared_teams', '[]'))), existence_only = coalesce((b.email ->> 'existence_only')::boolean, false),
      external_domains = ARRAY(SELECT jsonb_array_elements_text(b.email -> 'external_domains')), steps = nullif(b.email -> 'steps', 'null'::jsonb),
      rulebook_version = (b.email ->> 'rulebook_version')::int, decided_at = (b.email ->> 'decided_at')::timestamptz
    FROM run_befores b WHERE ${these} AND e.id = b.email_id`);
  await tx.execute(sql`DELETE FROM filings WHERE email_id = ANY(${sql.param([...ids])}::bigint[])`);
  await tx.execute(
    sql`INSERT INTO filings SELECT f.* FROM run_befores b, jsonb_populate_recordset(NULL::filings, b.filings) f WHERE ${these}`,
  );
  await tx.execute(sql`DELETE FROM dockets WHERE email_id = ANY(${sql.param([...ids])}::bigint[])`);
  await tx.execute(
    sql`INSERT INTO dockets SELECT k.* FROM run_befores b, jsonb_populate_record(NULL::dockets, b.docket) k WHERE ${these} AND b.docket IS NOT NULL`,
  );
}

const emailRow = z.object({
  arrived: z.number(),
  sender_check: z.enum(SENDER_CHECKS),
  author_trusted: z.boolean(),
  length: z.number(),
  size: z.number(),
  position: z.number(),
  pack: z.string(),
  id: z.number(),
});

/** What a kept-out email says is read again from its source. */
async function restoreContents(tx: Tx, blobs: Sources, ids: readonly number[]): Promise<void> {
  if (ids.length === 0) return;
  const rows = await rowsOf(
    tx,
    emailRow,
    sql`
    SELECT e.id, e.sender_check, e.author_trusted, (extract(epoch FROM e.arrived_at) * 1000)::float8 AS arrived, b.pack, b.position, b.length, b.size FROM emails e JOIN blobs b ON b.sha256 = e.blob WHERE e.id = ANY(${sql.param([...ids])}::bigint[])`,
  );
  const read = await blobs.readStored(rows);
  await insertContents(
    tx,
    rows.flatMap(({ id }, at) => {
      const facts = read[at];
      return facts ? [{ id, facts }] : [];
    }),
  );
}

const runCreatedRow = z.object({ id: z.number(), name: z.string(), because: z.string().nullable() });

/** Removes the records that the run created; people first, since their accounts depend on them. @returns those that stay */
async function removeCreated(tx: Tx, runId: number): Promise<UndoReport['kept']> {
  const kept: UndoReport['kept'] = [];
  for (const kind of MADE_KINDS) {
    const table = sql.identifier(`${kind}s`);
    const rows = await rowsOf(
      tx,
      runCreatedRow,
      sql`
      SELECT t.id, t.name, ${whatDependsOn(kind, { filings: true })} AS because
      FROM run_created r JOIN ${table} t ON t.id = r.record_id WHERE r.run_id = ${runId} AND r.kind = ${kind}`,
    );
    const free = rows.filter((row) => row.because === null).map((row) => row.id);
    await removeRecords(tx, kind, free);
    for (const row of rows) if (row.because !== null) kept.push({ kind, id: row.id, name: row.name, because: row.because });
  }
  return kept;
}
