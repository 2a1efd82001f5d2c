import { idRow, rowsOf } from '../base/db/rows';
import { recordView } from '@fulvet/contract';
import type { RecordView } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';

/** The saved filters that a member sees, their own first; or the one of an id. */
export async function savedFilters(tx: Tx, userId: number, id: number | null = null): Promise<RecordView[]> {
  return rowsOf(
    tx,
    recordView,
    sql`
    SELECT v.id, v.record_kind AS kind, v.name, v.query, v.shared, v.user_id = ${userId} AS mine, u.name AS by FROM record_views v JOIN users u ON u.id = v.user_id
    WHERE ${id === null ? sql`true` : sql`v.id = ${id}`} ORDER BY v.user_id <> ${userId}, lower(v.name)`,
  );
}

/** Saves a filter under a name; one that the member has under this name is replaced. */
export async function saveFilter(
  tx: Tx,
  userId: number,
  { kind, name, shared, query }: Pick<RecordView, 'kind' | 'name' | 'shared' | 'query'>,
): Promise<RecordView> {
  const [row] = await rowsOf(
    tx,
    idRow,
    sql`INSERT INTO record_views (record_kind, name, user_id, shared, query) VALUES (${kind}, ${name}, ${userId}, ${shared}, ${query})
    ON CONFLICT (user_id, record_kind, lower(name)) DO UPDATE SET query = excluded.query, shared = excluded.shared, name = excluded.name RETURNING id`,
  );
  const [saved] = await savedFilters(tx, userId, row?.id ?? 0);
  if (!saved) throw new Error('the filter that was saved is not there');
  return saved;
}

/** @returns whether the member had such a filter */
export async function deleteFilter(tx: Tx, userId: number, id: number): Promise<boolean> {
  const { rowCount } = await tx.execute(sql`DELETE FROM record_views WHERE id = ${id} AND user_id = ${userId}`);
  return (rowCount ?? 0) > 0;
}
