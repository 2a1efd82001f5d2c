import type { Handlers } from '../base/handler';
import { liveRulebook } from '../rulebook/liveRulebook';
import { outsidersOf } from './outsiders';
import { strangers } from './strangers';

export const peopleRoutes: Pick<Handlers, 'listStrangers' | 'outsiders'> = {
  listStrangers: async ({ user, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, (tx) => strangers(tx, user, query, compiled));
  },

  outsiders: async ({ user, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const ids = query.emails.split(',').map(Number);
    return { people: await services.database.as(user.id, (tx) => outsidersOf(tx, ids, compiled)) };
  },
};
