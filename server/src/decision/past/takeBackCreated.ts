import { z } from 'zod';
import { idRow, json, rowsOf } from '../../base/db/rows';
import { mergeableKind } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';
import type { MadeKind } from '../../records/recordSnapshot';
import { asItStands, MADE_KINDS, putBackRecord, removeRecords } from '../../records/recordSnapshot';
import { whatDependsOn } from '../../records/whatDependsOn';
import type { CreatedAgain } from './createdByMail';
import type { Concerned } from '../../base/concerned';

/**
 * Takes records back that a run would not create, and ascribes others to the emails that create them now. All of them are kept as they stood
 * for the run's undo. One on which something has come to depend stays.
 *
 * @returns how many are gone
 */
export async function takeBackMade(tx: Tx, runId: number, made: CreatedAgain): Promise<number> {
  if (made.setAside.length === 0) return 0;
  const moved = JSON.stringify(made.moved());
  let gone = 0;
  for (const kind of MADE_KINDS) {
    const table = sql.identifier(`${kind}s`);
    const ids = made.gone().flatMap((record) => (record.kind === kind ? [record.id] : []));
    const rows = await rowsOf(
      tx,
      idRow,
      sql`SELECT t.id FROM ${table} t WHERE t.id = ANY(${sql.param(ids)}::bigint[]) AND ${whatDependsOn(kind, { filings: true })} IS NULL`,
    );
    const free = rows.map((row) => row.id);
    await tx.execute(sql`INSERT INTO run_taken_back (run_id, kind, record_id, gone, stood) SELECT ${runId}::bigint, ${kind}, t.id, true, ${asItStands(kind)}
      FROM ${table} t WHERE t.id = ANY(${sql.param(free)}::bigint[])`);
    await removeRecords(tx, kind, free);
    gone += free.length;
    const ascribed = sql`json_to_recordset(${moved}::json) AS m(kind text, id bigint, "emailId" bigint, rule text)`;
    await tx.execute(sql`INSERT INTO run_taken_back (run_id, kind, record_id, gone, stood) SELECT ${runId}::bigint, ${kind}, t.id, false, ${asItStands(kind)}
      FROM ${table} t JOIN ${ascribed} ON m.kind = ${kind} AND m.id = t.id`);
    await tx.execute(
      sql`UPDATE ${table} t SET origin_email_id = m."emailId", origin_rule = m.rule FROM ${ascribed} WHERE m.kind = ${kind} AND m.id = t.id`,
    );
  }
  return gone;
}

interface Stood {
  details: { address?: string; domain?: string }[];
}

export interface GivenBack {
  back: number;
  away: { kind: MadeKind; id: number; name: string }[];
  concerned: Concerned;
}

const takenBackRow = z.object({
  kind: mergeableKind,
  record_id: z.number(),
  stood: json<Stood>(),
  name: z.string(),
  sealed: z.boolean(),
});

/**
 * Gives back what a run took, before the emails are put back as they stood. What was sealed meanwhile stays away, as do records whose
 * addresses others have by now.
 *
 * @returns how many are back and whose mail they concern, which may have come in since; and those that stay away
 */
export async function giveBackMade(tx: Tx, runId: number): Promise<GivenBack> {
  for (const kind of MADE_KINDS)
    await tx.execute(sql`UPDATE ${sql.identifier(`${kind}s`)} t SET origin_email_id = (r.stood -> 'record' ->> 'origin_email_id')::bigint, origin_rule = r.stood -> 'record' ->> 'origin_rule'
      FROM run_taken_back r WHERE r.run_id = ${runId} AND r.kind = ${kind} AND NOT r.gone AND t.id = r.record_id`);
  const rows = await rowsOf(
    tx,
    takenBackRow,
    sql`
    WITH taken AS (DELETE FROM run_taken_back WHERE run_id = ${runId} RETURNING kind, record_id, gone, stood)
    SELECT r.kind, r.record_id, r.stood, r.stood -> 'record' ->> 'name' AS name, coalesce(e.outcome = 'sealed', false) AS sealed
    FROM taken r LEFT JOIN emails e ON e.id = (r.stood -> 'record' ->> 'origin_email_id')::bigint WHERE r.gone ORDER BY r.kind = 'account' DESC, r.record_id`,
  );
  const away: { kind: MadeKind; id: number; name: string }[] = [];
  const concerned: Concerned = { addresses: [], domains: [] };
  let back = 0;
  for (const { kind, record_id: id, stood, name, sealed } of rows) {
    if (sealed) continue;
    if (!(await putBackRecord(tx, kind, stood))) {
      away.push({ kind, id, name });
      continue;
    }
    back += 1;
    for (const { address, domain } of stood.details) {
      if (address) concerned.addresses.push(address);
      if (domain) concerned.domains.push(domain);
    }
  }
  return { back, away, concerned };
}
