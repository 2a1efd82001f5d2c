import { sql } from 'drizzle-orm';
import type { Undone } from '@fulvet/contract';
import { z } from 'zod';
import { writeDown } from '../../base/audit';
import type { Tx } from '../../base/db/database';
import { rowsOf } from '../../base/db/rows';
import { Refusal } from '../../base/refusal';
import type { Undoer } from '../../base/undoLog';

/** An entry as its row stands in the database. */
const entryRow = z.object({
  id: z.number(),
  list_id: z.string(),
  kind: z.string(),
  value: z.string(),
  exactly: z.boolean(),
  note: z.string(),
  added_by: z.number().nullable(),
  added_at: z.string(),
  until: z.string().nullable(),
});
export type StoredEntry = z.output<typeof entryRow>;

const changed = z.object({
  list: z.string(),
  name: z.string(),
  note: z.string().nullable().describe('Of a list that was deleted; otherwise null.'),
  added: z.array(z.number()),
  before: z.array(entryRow),
});
export type ListChange = z.output<typeof changed>;

/** Entries that were added go, and those that were removed or changed are as before; a list that was deleted is there again. */
export const undoList: Undoer<ListChange> = {
  kind: 'list',
  forAdministrators: 'Lists are for administrators.',
  payload: changed,
  undo: async ({ database }, doer, { list, name, note, added, before }) => {
    return database.as(doer.id, async (tx): Promise<Undone | Refusal> => {
      if (note !== null) {
        const taken = await tx.execute(sql`SELECT FROM address_lists WHERE lower(name) = lower(${name})`);
        if (taken.rowCount)
          return new Refusal('conflict', 'exists', `There is another list “${name}” by now. Rename it first. Nothing was undone.`);
        await tx.execute(sql`INSERT INTO address_lists (id, name, note, created_by) VALUES (${list}, ${name}, ${note}, ${doer.id})`);
      }
      const there = await tx.execute(sql`UPDATE address_lists SET changed_at = clock_timestamp() WHERE id = ${list}`);
      if (!there.rowCount) return new Refusal('conflict', 'changed-since', 'The list was deleted since. Nothing was undone.');
      const gone = await tx.execute(sql`DELETE FROM address_list_entries WHERE id = ANY(${sql.param(added)}::bigint[])`);
      await tx.execute(sql`DELETE FROM address_list_entries WHERE id = ANY(${sql.param(before.map(({ id }) => id))}::bigint[])`);
      const back =
        await tx.execute(sql`INSERT INTO address_list_entries (id, list_id, kind, value, exactly, note, added_by, added_at, until) OVERRIDING SYSTEM VALUE
        SELECT id, list_id, kind, value, exactly, note, added_by, added_at, until FROM jsonb_populate_recordset(NULL::address_list_entries, ${JSON.stringify(before)}::jsonb) ON CONFLICT DO NOTHING`);
      await writeDown(tx, doer, { kind: 'rules', about: `undid a change of the list “${name}”` });
      return { changed: (gone.rowCount ?? 0) + (back.rowCount ?? 0), kept: [] };
    });
  },
};

/** Entries as they stand, to be put back. */
export async function entriesOf(tx: Tx, listId: string, id: number | null): Promise<StoredEntry[]> {
  return rowsOf(
    tx,
    entryRow,
    sql`SELECT id, list_id, kind, value, exactly, note, added_by, added_at::text AS added_at, until::text AS until FROM address_list_entries WHERE list_id = ${listId} AND ${id === null ? sql`true` : sql`id = ${id}`} ORDER BY id`,
  );
}
