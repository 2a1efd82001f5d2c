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

/** Stored questions; those of earlier versions do not say what their candidates are. */
export const questionsOf = (stored: readonly Question[] | null): Question[] =>
  (stored ?? []).map((question) => ({
    ...question,
    kind: (question.kind as RecordKind | undefined) ?? (question.about === 'deal' ? 'deal' : 'account'),
  }));

const reachRow = z.object({ all: z.boolean() });

/** Dockets and questions as the acting user may read them: records out of their reach have no names there. */
export async function asSeen<T extends { docket: Docket; questions: Question[] }>(tx: Tx, all: readonly T[]): Promise<T[]> {
  const rows = await rowsOf(tx, reachRow, sql`SELECT fulvet_all_records() AS all`);
  if (rows[0]?.all ?? false) return [...all];
  const sees = await seesOf(
    tx,
    all.flatMap((t) => recordsIn(t.docket, t.questions)),
  );
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
  if (missing) return notFound(missing.kind);
  return null;
}
