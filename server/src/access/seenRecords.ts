import type { RecordKind } from '@fulvet/contract';
import type { Docket, Question, SeesRecord } from '@fulvet/core';
import { questionsWithoutHidden, recordsIn, withoutHidden } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../db/database';
import { notFound } from '../http/errors';

/** Dockets and questions as the acting user may read them: records out of their reach have no names there. */
export async function asSeen<T extends { docket: Docket; questions: Question[] }>(tx: Tx, all: readonly T[]): Promise<T[]> {
  const { rows } = await tx.execute<{ all: boolean }>(sql`SELECT fulvet_all_records() AS all`);
  if (rows[0]?.all ?? false) return [...all];
  const sees = await seesOf(
    tx,
    all.flatMap((one) => recordsIn(one.docket, one.questions)),
  );
  return all.map((one) => ({ ...one, docket: withoutHidden(one.docket, sees), questions: questionsWithoutHidden(one.questions, sees) }));
}

async function seesOf(tx: Tx, records: readonly { kind: RecordKind; id: number }[]): Promise<SeesRecord> {
  const { rows } = await tx.execute<{ key: string }>(sql`
    SELECT n.kind || ':' || n.id AS key FROM (SELECT DISTINCT kind, id FROM json_to_recordset(${JSON.stringify(records)}::json) AS r(kind text, id bigint)) n WHERE CASE n.kind
      WHEN 'account' THEN EXISTS (SELECT FROM accounts r WHERE r.id = n.id) WHEN 'deal' THEN EXISTS (SELECT FROM deals r WHERE r.id = n.id)
      WHEN 'contact' THEN EXISTS (SELECT FROM contacts r WHERE r.id = n.id) ELSE EXISTS (SELECT FROM leads r WHERE r.id = n.id) END`);
  const seen = new Set(rows.map((row) => row.key));
  return (kind, id) => seen.has(`${kind}:${id}`);
}

/** Makes sure that the acting user sees all of these records, before something is done with them beyond row security. @throws 404 */
export async function demandSeen(tx: Tx, records: readonly { kind: RecordKind; id: number }[]): Promise<void> {
  const sees = await seesOf(tx, records);
  const missing = records.find(({ kind, id }) => !sees(kind, id));
  if (missing) throw notFound(missing.kind);
}
