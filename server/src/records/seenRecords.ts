import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { RecordKind } from '@fulvet/contract';
import type { Docket, Question, SeesRecord } from '@fulvet/core';
import { questionsWithoutHidden, recordsIn, withoutHidden } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { namesOf } from '../base/db/recordNames';
import { nounOf } from './kinds';

/** Stored questions; those of earlier versions do not say what their candidates are. */
export const questionsOf = (stored: readonly Question[] | null): Question[] =>
  (stored ?? []).map((question) => ({
    ...question,
    kind: (question.kind as RecordKind | undefined) ?? (question.about === 'deal' ? 'deal' : 'account'),
  }));

/** Dockets and questions as the acting user may read them: records out of their reach have no names there. */
export async function asSeen<T extends { docket: Docket; questions: Question[] }>(tx: Tx, all: readonly T[]): Promise<T[]> {
  const named = all.flatMap((t) => recordsIn(t.docket, t.questions));
  // Of own kinds it is always asked: a kind may be that of other teams.
  const seesAll = await seesAllRecords(tx);
  const asked = seesAll ? named.filter(({ kind }) => kind === 'own') : named;
  if (seesAll && asked.length === 0) return [...all];
  const seen = await seesOf(tx, asked);
  const sees: SeesRecord = (kind, id) => (seesAll && kind !== 'own') || seen(kind, id);
  return all.map((t) => ({ ...t, docket: withoutHidden(t.docket, sees), questions: questionsWithoutHidden(t.questions, sees) }));
}

async function seesOf(tx: Tx, records: readonly { kind: RecordKind; id: number }[]): Promise<SeesRecord> {
  const seen = await namesOf(tx, [...new Set(records.map(({ kind, id }) => `${kind}:${id}`))]);
  return (kind, id) => seen.has(`${kind}:${id}`);
}

/** Makes sure that the acting user sees all of these records, before something is done with them beyond row security. @returns a refusal otherwise */
export async function demandSeen(tx: Tx, records: readonly { kind: RecordKind; id: number }[]): Promise<Refusal | null> {
  const sees = await seesOf(tx, records);
  const missing = records.find(({ kind, id }) => !sees(kind, id));
  if (missing) return notFound(nounOf(missing.kind));
  return null;
}

const reachRow = z.object({ all: z.boolean() });

/** Whether the acting member sees all records. */
export async function seesAllRecords(tx: Tx): Promise<boolean> {
  const [reach] = await rowsOf(tx, reachRow, sql`SELECT fulvet_all_records() AS all`);
  return reach?.all ?? false;
}

const seenRecordRow = z.object({ record: z.string() });

/** Of records as `kind:id`, those that the acting member sees. */
export async function recordsSeen(tx: Tx, records: readonly string[]): Promise<string[]> {
  const rows = await rowsOf(
    tx,
    seenRecordRow,
    sql`SELECT r AS record FROM unnest(${sql.param([...records])}::text[]) AS r WHERE fulvet_sees_record(split_part(r, ':', 1), split_part(r, ':', 2)::bigint)`,
  );
  return rows.map(({ record }) => record);
}
