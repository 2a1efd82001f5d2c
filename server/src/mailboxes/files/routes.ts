import { isRefusal } from '../../base/refusal';
import { addressKey } from '@fulvet/core';
import type { Handlers } from '../../base/handler';
import { cancelImport, openImport, startImport } from './importMailbox';
import { importItems, importRun, newestImports } from './queries';
import { takeFile } from './takeFile';

export const importRoutes: Pick<
  Handlers,
  'listImports' | 'createImport' | 'putImportFile' | 'startImport' | 'getImport' | 'listImportItems' | 'cancelImport'
> = {
  listImports: async ({ user, services }) => ({ imports: await services.database.as(user.id, (tx) => newestImports(tx)) }),

  createImport: ({ user, body, services }) => {
    const address = addressKey(body.mailbox, { tagsTellApart: true })?.key ?? body.mailbox.toLowerCase();
    return services.database.as(user.id, async (tx) => {
      const id = await openImport(tx, user, address);
      return isRefusal(id) ? id : importRun(tx, id);
    });
  },

  putImportFile: ({ user, params, query, services, req }) =>
    takeFile(services, user, params.id, { name: query.name, saidBytes: Number(req.headers['content-length'] ?? 0), bytes: req }),

  startImport: ({ user, params, services }) => startImport(services, user, params.id),

  getImport: ({ user, params, services }) => services.database.as(user.id, (tx) => importRun(tx, params.id)),

  listImportItems: ({ user, params, query, services }) =>
    services.database.as(user.id, async (tx) => {
      const run = await importRun(tx, params.id);
      return isRefusal(run) ? run : importItems(tx, run.id, query);
    }),

  cancelImport: ({ user, params, services }) => cancelImport(services, user, params.id),
};
