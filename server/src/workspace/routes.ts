import type { Handlers } from '../base/handler';
import { changeSettings } from './changeSettings';
import { workspaceOf } from './workspaceSettings';

export const workspaceRoutes: Pick<Handlers, 'getWorkspace' | 'putWorkspace'> = {
  getWorkspace: ({ user, services }) => services.database.as(user.id, workspaceOf),

  putWorkspace: ({ user, body, services }) => changeSettings(services, user, body),
};
