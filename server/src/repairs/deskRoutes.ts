import type { Handlers } from '../base/handler';
import { Refusal } from '../base/refusal';
import { liveRulebook } from '../rulebook/liveRulebook';
import { deskCases } from './deskCases';
import { passCase } from './passCase';

export const deskRoutes: Pick<Handlers, 'getDesk' | 'passCase'> = {
  getDesk: async ({ user, query, services }) => {
    if (query.whose === 'all' && user.role !== 'admin')
      return new Refusal('forbidden', 'not-allowed', 'All that waits is for administrators; you see what waits in your own mailboxes.');
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, (tx) => deskCases(tx, user, query.whose, query.limit, compiled));
  },

  passCase: ({ user, body, services }) => passCase(services.database, user, body.emails, body.to),
};
