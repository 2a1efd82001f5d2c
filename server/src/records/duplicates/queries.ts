import { z } from 'zod';
import { moment, rowsOf } from '../../base/db/rows';
import { recordKind } from '@fulvet/contract';
import type { Merge, RecordKind } from '@fulvet/contract';
import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';

const mergeRow = z.object({
  id: z.number(),
  kind: recordKind,
  kept_id: z.number(),
  kept_name: z.string().nullable(),
  gone_name: z.string(),
  at: moment,
  by: z.string(),
  undone: z.boolean(),
});

async function mergesWhere(tx: Tx, where: SQL, limit: number): Promise<Merge[]> {
  const rows = await rowsOf(
    tx,
    mergeRow,
    sql`
    SELECT m.id, m.kind, m.kept_id, r.name AS kept_name, m.gone_name, m.at, u.name AS by, m.undone_at IS NOT NULL AS undone FROM merges m JOIN users u ON u.id = m.user_id LEFT JOIN records r ON r.kind = m.kind AND r.id = m.kept_id
    WHERE ${where} ORDER BY m.id DESC LIMIT ${limit}`,
  );
  return rows.map((row) => ({
    id: row.id,
    kind: row.kind,
    keptId: row.kept_id,
    keptName: row.kept_name ?? '',
    goneName: row.gone_name,
    at: row.at,
    by: row.by,
    undone: row.undone,
  }));
}

/** A merge that there is. */
export async function mergeById(tx: Tx, id: number): Promise<Merge> {
  const [found] = await mergesWhere(tx, sql`m.id = ${id}`, 1);
  if (!found) throw new Error('the merge that was made is not there');
  return found;
}

/** The newest merges, of all or of a kind, or into a record. */
export function listMerges(
  tx: Tx,
  { kind, record, limit }: { kind?: RecordKind | undefined; record?: number | undefined; limit: number },
): Promise<Merge[]> {
  const ofKind = kind === undefined ? sql`true` : sql`m.kind = ${kind}`;
  const into = record === undefined ? sql`true` : sql`m.kept_id = ${record}`;
  return mergesWhere(tx, sql`${ofKind} AND ${into}`, limit);
}

/** Notes that two records of a kind are not the same. */
export async function insertRefusal(tx: Tx, kind: RecordKind, [first, second]: readonly [number, number], userId: number): Promise<void> {
  const [lower, higher] = first < second ? [first, second] : [second, first];
  await tx.execute(
    sql`INSERT INTO duplicate_refusals (kind, one_id, other_id, user_id) VALUES (${kind}, ${lower}, ${higher}, ${userId}) ON CONFLICT DO NOTHING`,
  );
}
