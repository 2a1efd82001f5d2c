import { isRefusal } from '../base/refusal';
import { writeHistoryReading } from '../base/audit';
import type { Handlers } from '../base/handler';
import { scopeFigures } from '../records/mailFigures';
import { liveRulebook } from '../rulebook/liveRulebook';
import { domainMail } from '../emails/domainMail';
import { historyOf, historyPage, loggedBeside } from './history';
import { mailBeside } from './mailBeside';
import { recordInsights, scopeInsights } from './insights';

export const historyRoutes: Pick<Handlers, 'getHistory' | 'getInsights' | 'getMailBeside' | 'getDomainHistory' | 'getDomainInsights'> = {
  getHistory: async ({ user, params, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, async (tx) => {
      const page = await historyPage(tx, historyOf(params.kind, params.id), query, compiled);
      if (isRefusal(page)) return page;
      await writeHistoryReading(tx, user, page, `${params.kind} ${params.id}`);
      return { ...page, logged: await loggedBeside(tx, user.id, params, query, page) };
    });
  },

  getInsights: async ({ user, params, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, (tx) => recordInsights(tx, params.kind, params.id, historyOf(params.kind, params.id), compiled));
  },

  getMailBeside: async ({ user, params, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, async (tx) => ({ emails: await mailBeside(tx, user, params, compiled) }));
  },

  getDomainHistory: async ({ user, params, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, async (tx) => {
      const page = await historyPage(tx, domainMail(params.domain), query, compiled);
      if (isRefusal(page)) return page;
      await writeHistoryReading(tx, user, page, 'domain');
      return { ...page, logged: [] };
    });
  },

  getDomainInsights: async ({ user, params, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const scope = domainMail(params.domain);
    return services.database.as(user.id, async (tx) => scopeInsights(tx, scope, await scopeFigures(tx, scope), compiled));
  },
};
