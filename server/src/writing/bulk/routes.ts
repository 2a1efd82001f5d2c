import type { Handlers } from '../../base/handler';
import { listBulk, previewBulk, startBulk, stopBulk } from './bulk';

export const bulkRoutes: Pick<Handlers, 'previewBulk' | 'startBulk' | 'listBulk' | 'stopBulk'> = {
  previewBulk: ({ user, body, services }) => previewBulk(services, user, body),

  startBulk: ({ user, body, services }) => startBulk(services, user, body),

  listBulk: async ({ user, services }) => ({ sends: await services.database.as(user.id, listBulk) }),

  stopBulk: ({ user, params, services }) => stopBulk(services, user, params.id),
};
