import { isRefusal } from '../base/refusal';
import type { Handlers } from '../base/handler';
import { changeSettings } from './changeSettings';
import { workspaceOf } from './workspaceSettings';

export const workspaceRoutes: Pick<Handlers, 'getWorkspace' | 'putWorkspace'> = {
  getWorkspace: async ({ user, services }) => {
    const found = await services.database.as(user.id, workspaceOf);
    if (isRefusal(found) || user.role === 'admin') return found;
    // Who asked not to be counted is for those who keep that list.
    return { ...found, measuring: { ...found.measuring, never: [], ownRanges: [] } };
  },

  putWorkspace: ({ user, body, services }) => changeSettings(services, user, body),
};
