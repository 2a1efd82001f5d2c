import { isRefusal } from '../base/refusal';
import type { Handlers } from '../base/handler';
import { setDealTeam, teamOfDeal } from './dealTeam';

export const dealTeamRoutes: Pick<Handlers, 'getDealTeam' | 'setDealTeam'> = {
  getDealTeam: async ({ user, params, services }) => {
    const team = await services.database.as(user.id, (tx) => teamOfDeal(tx, params.id));
    return isRefusal(team) ? team : { members: team.members };
  },

  setDealTeam: ({ user, params, body, services }) => setDealTeam(services.database, user, params.id, body.members),
};
