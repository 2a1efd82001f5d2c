import type { Handlers } from '../../base/handler';
import { changeActivity, logActivity, removeActivity } from './keep';

export const activityRoutes: Pick<Handlers, 'logActivity' | 'changeActivity' | 'removeActivity'> = {
  logActivity: ({ user, body, services }) => logActivity(services, user, body),
  changeActivity: ({ user, params, body, services }) => changeActivity(services, user, params.id, body),
  removeActivity: ({ user, params, body, services }) => removeActivity(services, user, params.id, body.removed),
};
