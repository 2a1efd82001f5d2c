import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { isRefusal, notFound } from '../base/refusal';
import { stringify } from 'csv-stringify/sync';
import { sql } from 'drizzle-orm';
import type { Handlers } from '../base/handler';
import { loadDraft } from './draft';
import { changeEntry, createList, deleteList, demandList, keptEntries, keptLists, pasteEntries, removeEntry } from './lists/keptLists';

const keptEntryRow = z.object({
  kind: z.string(),
  value: z.string(),
  exactly: z.boolean(),
  note: z.string(),
  until: z.string().nullable(),
});

export const listRoutes: Pick<
  Handlers,
  | 'listKeptLists'
  | 'createKeptList'
  | 'deleteKeptList'
  | 'listKeptEntries'
  | 'pasteKeptEntries'
  | 'changeKeptEntry'
  | 'removeKeptEntry'
  | 'exportKeptList'
> = {
  listKeptLists: ({ user, services }) =>
    services.database.as(user.id, async (tx) => {
      const { rulebook, live } = await loadDraft(tx);
      return { lists: await keptLists(tx, [live, rulebook]) };
    }),

  createKeptList: ({ user, body, services }) =>
    services.database.as(user.id, async (tx) => {
      const id = await createList(tx, user, body.name, body.note);
      if (isRefusal(id)) return id;
      const made = (await keptLists(tx, [])).find((keptList) => keptList.id === id);
      if (!made) return notFound('list');
      return made;
    }),

  deleteKeptList: ({ user, params, services }) =>
    services.database.as(user.id, async (tx) => {
      const { rulebook, live } = await loadDraft(tx);
      const undo = await deleteList(tx, user, params.list, [live, rulebook]);
      return isRefusal(undo) ? undo : { undo };
    }),

  listKeptEntries: ({ user, params, query, services }) =>
    services.database.as(user.id, (tx) => keptEntries(tx, params.list, query.text ?? '', query.offset)),

  pasteKeptEntries: ({ user, params, body, services }) => services.database.as(user.id, (tx) => pasteEntries(tx, user, params.list, body)),

  changeKeptEntry: ({ user, params, body, services }) =>
    services.database.as(user.id, async (tx) => {
      const undo = await changeEntry(tx, user, params.list, params.id, body);
      return isRefusal(undo) ? undo : { undo };
    }),

  removeKeptEntry: ({ user, params, services }) =>
    services.database.as(user.id, async (tx) => {
      const undo = await removeEntry(tx, user, params.list, params.id);
      return isRefusal(undo) ? undo : { undo };
    }),

  exportKeptList: async ({ user, params, services, res }) => {
    const rows = await services.database.as(user.id, async (tx) => {
      const refused = await demandList(tx, params.list);
      if (isRefusal(refused)) return refused;
      const found = await rowsOf(
        tx,
        keptEntryRow,
        sql`SELECT kind, value, exactly, note, until::text FROM kept_entries WHERE list_id = ${params.list} ORDER BY kind DESC, value`,
      );
      return found;
    });
    if (isRefusal(rows)) return rows;
    res.set('Content-Type', 'text/csv; charset=utf-8');
    res.attachment(`${params.list}.csv`);
    res.end(
      stringify(
        rows.map((row) => ({ ...row, exactly: row.exactly ? 'yes' : 'no' })),
        { header: true, columns: ['kind', 'value', 'exactly', 'note', 'until'], escape_formulas: true },
      ),
    );
    return undefined;
  },
};
