import type { Handlers } from '../base/handler';
import { liveRulebook } from '../rulebook/liveRulebook';
import { outsidersOf, subjectOfFirst } from './outsiders';
import { unknownPeople } from './unknownPeople';

export const peopleRoutes: Pick<Handlers, 'listUnknownPeople' | 'outsiders'> = {
  listUnknownPeople: async ({ user, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, (tx) => unknownPeople(tx, user, query, compiled));
  },

  outsiders: async ({ user, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const ids = query.emails.split(',').map(Number);
    return services.database.as(user.id, async (tx) => ({
      people: (await outsidersOf(tx, ids, compiled)).people,
      subject: await subjectOfFirst(tx, ids),
    }));
  },
};
