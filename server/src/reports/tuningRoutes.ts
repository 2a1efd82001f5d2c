import type { Handlers } from '../base/handler';
import { liveRulebook } from '../rulebook/liveRulebook';
import { ruleTextOf } from '../rulebook/ruleTexts';
import { domainUse } from './domainUse';
import { ruleAccuracy } from './ruleAccuracy';
import { suggestionsWithEffect, takeSuggestion } from './tune';

export const tuningRoutes: Pick<Handlers, 'listDomainUse' | 'listRuleAccuracy' | 'listSuggestions' | 'takeSuggestion'> = {
  listDomainUse: async ({ user, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const text = ruleTextOf(compiled);
    const { rows, total } = await services.database.as(user.id, (tx) => domainUse(tx, query));
    return { rows: rows.map((row) => ({ ...row, rule: text(row.rule) })), total };
  },

  listRuleAccuracy: async ({ user, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const text = ruleTextOf(compiled);
    const rows = await services.database.as(user.id, (tx) => ruleAccuracy(tx, query.days));
    return { rules: rows.map((row) => ({ ...row, name: text(row.rule) ?? row.rule })) };
  },

  listSuggestions: ({ user, services }) => suggestionsWithEffect(services, user),

  takeSuggestion: ({ user, body, services }) => takeSuggestion(services, user, body),
};
