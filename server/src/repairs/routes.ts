import type { Handlers } from '../base/handler';
import { demandEmail } from '../emails/demandEmail';
import { liveRulebook } from '../rulebook/liveRulebook';
import { applyRepair } from './applyRepair';
import { likelyRecords } from './likely';
import { proposeEach } from './proposeEach';
import { repairsAbout } from './queries';
import { undoRepair } from './undoRepair';

export const repairRoutes: Pick<Handlers, 'repair' | 'undoRepair' | 'listRepairs' | 'likelyRecords' | 'proposeEach'> = {
  repair: ({ user, body, services }) => applyRepair(services, user, body),

  undoRepair: ({ user, params, services }) => undoRepair(services, user, params.id),

  listRepairs: async ({ user, query, services }) => ({
    repairs: await services.database.as(user.id, (tx) => repairsAbout(tx, user.id, query)),
  }),

  proposeEach: async ({ user, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const emails = query.emails.split(',').map(Number);
    return services.database.as(user.id, (tx) => proposeEach(tx, compiled, { ...query, emails, of: query.of }));
  },

  likelyRecords: async ({ user, params, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(
      user.id,
      async (tx) => (await demandEmail(tx, params.id)) ?? { records: await likelyRecords(tx, params.id, user.id, query.text, compiled) },
    );
  },
};
