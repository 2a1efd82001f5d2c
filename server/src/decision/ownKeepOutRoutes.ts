import { isRefusal } from '../base/refusal';
import type { Handlers } from '../base/handler';
import { markUndone } from '../base/undoLog';
import { keepOutOfOwnMail } from './keepOutOfOwnMail';
import { ownKeepOuts } from './queries';
import { allowAgain } from './undoOwnKeepOut';

export const ownKeepOutRoutes: Pick<Handlers, 'listOwnKeepOuts' | 'addOwnKeepOut' | 'removeOwnKeepOut'> = {
  listOwnKeepOuts: async ({ user, services }) => ({ keepOuts: await services.database.as(user.id, ownKeepOuts) }),

  addOwnKeepOut: ({ user, body, services }) => keepOutOfOwnMail(services, user, body.kind, body.value),

  removeOwnKeepOut: async ({ user, params, services }) => {
    const refused = await allowAgain(services, user.id, params.id);
    if (isRefusal(refused)) return refused;
    await services.database.as(user.id, (tx) => markUndone(tx, user.id, 'ownKeepOut', { id: params.id }));
    return {};
  },
};
