import { isRefusal, notFound } from '../base/refusal';
import { stringify } from 'csv-stringify/sync';
import type { Handlers } from '../base/handler';
import { loadDraft } from './draft';
import {
  changeEntry,
  createList,
  deleteList,
  demandList,
  entriesForFile,
  addressListEntries,
  addressLists,
  pasteEntries,
  removeEntry,
} from './lists/addressLists';

export const listRoutes: Pick<
  Handlers,
  | 'listAddressLists'
  | 'createAddressList'
  | 'deleteAddressList'
  | 'listAddressListEntries'
  | 'pasteAddressListEntries'
  | 'changeAddressListEntry'
  | 'removeAddressListEntry'
  | 'exportAddressList'
> = {
  listAddressLists: ({ user, services }) =>
    services.database.as(user.id, async (tx) => {
      const { rulebook, live } = await loadDraft(tx);
      return { lists: await addressLists(tx, [live, rulebook]) };
    }),

  createAddressList: ({ user, body, services }) =>
    services.database.as(user.id, async (tx) => {
      const id = await createList(tx, user, body.name, body.note);
      if (isRefusal(id)) return id;
      const made = (await addressLists(tx, [])).find((addressList) => addressList.id === id);
      if (!made) return notFound('list');
      return made;
    }),

  deleteAddressList: ({ user, params, services }) =>
    services.database.as(user.id, async (tx) => {
      const { rulebook, live } = await loadDraft(tx);
      const undo = await deleteList(tx, user, params.list, [live, rulebook]);
      return isRefusal(undo) ? undo : { undo };
    }),

  listAddressListEntries: ({ user, params, query, services }) =>
    services.database.as(user.id, (tx) => addressListEntries(tx, params.list, query.text ?? '', query.offset)),

  pasteAddressListEntries: ({ user, params, body, services }) =>
    services.database.as(user.id, (tx) => pasteEntries(tx, user, params.list, body)),

  changeAddressListEntry: ({ user, params, body, services }) =>
    services.database.as(user.id, async (tx) => {
      const undo = await changeEntry(tx, user, params.list, params.id, body);
      return isRefusal(undo) ? undo : { undo };
    }),

  removeAddressListEntry: ({ user, params, services }) =>
    services.database.as(user.id, async (tx) => {
      const undo = await removeEntry(tx, user, params.list, params.id);
      return isRefusal(undo) ? undo : { undo };
    }),

  exportAddressList: async ({ user, params, services, res }) => {
    const rows = await services.database.as(user.id, async (tx) => {
      const refused = await demandList(tx, params.list);
      return isRefusal(refused) ? refused : entriesForFile(tx, params.list);
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
