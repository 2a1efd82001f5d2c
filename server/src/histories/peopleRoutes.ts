import type { Handlers } from '../base/handler';
import { demandEmail } from '../emails/demandEmail';
import { liveRulebook } from '../rulebook/liveRulebook';
import { concernedPeople } from './peopleOfEmail';

export const peopleOfEmailRoutes: Pick<Handlers, 'concernedPeople'> = {
  concernedPeople: async ({ user, params, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(
      user.id,
      async (tx) => (await demandEmail(tx, params.id)) ?? { people: await concernedPeople(tx, params.id, compiled) },
    );
  },
};
