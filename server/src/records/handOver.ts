import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import type { RecordKind } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { tableOf } from './kinds';
import { memberName } from '../base/db/memberName';
import { notFound, Refusal } from '../base/refusal';
import type { Concerned } from '../base/concerned';

/** Records that changed hands. */
export interface HandedOver {
  ids: number[];
  /** Who owns them now. */
  toName: string;
  /** Who owned each. */
  before: { id: number; owner: number | null }[];
  /** Whose mail it concerns. */
  concerned: Concerned;
}

const handOverRow = z.object({ id: z.number(), owner: z.number().nullable() });

/**
 * Gives records of a kind to another member as one step: those named, or all that one member owns.
 *
 * @returns those that changed hands, and whose mail it concerns: who owns a record can see its mail, and rules ask for owners
 */
export async function handOver(
  tx: Tx,
  userId: number,
  kind: RecordKind,
  { from, ids, to }: { from: number | null; ids: readonly number[]; to: number | null },
): Promise<HandedOver | Refusal> {
  if (from === null && ids.length === 0)
    return new Refusal('unfit', 'bad-input', 'Choose an owner or single records. Nothing was changed.', { ids: 'is empty' });
  let toName = 'no one';
  if (to !== null) {
    const name = await memberName(tx, to);
    if (name === null) return notFound('member');
    toName = name;
  }
  const table = tableOf(kind);
  const these = from === null ? sql`t.id = ANY(${sql.param([...ids])}::bigint[])` : sql`t.owner_id = ${from}`;
  const rows = await rowsOf(
    tx,
    handOverRow,
    sql`
    WITH before AS (SELECT t.id, t.owner_id AS owner, u.email FROM ${table} t LEFT JOIN users u ON u.id = t.owner_id WHERE ${these} AND t.owner_id IS DISTINCT FROM ${to}::bigint),
      given AS (UPDATE ${table} t SET owner_id = ${to}::bigint FROM before b WHERE b.id = t.id RETURNING t.id, b.owner),
      noted AS (INSERT INTO record_changes (kind, record_id, user_id, field, before, after) SELECT ${kind}, b.id, ${userId}::bigint, 'owner', coalesce(b.email, ''), coalesce((SELECT email FROM users WHERE id = ${to}), '') FROM before b)
    SELECT id, owner FROM given ORDER BY id`,
  );
  const given = rows.map((row) => row.id);
  return { ids: given, before: rows, toName, concerned: { addresses: [], domains: [], records: { kind, ids: given } } };
}
