import type { Handlers } from '../base/handler';
import { liveRulebook } from '../rulebook/liveRulebook';
import { ruleTextOf } from '../rulebook/ruleTexts';
import { arrivalOf } from './arrival';
import { lineCounts } from './lineCounts';
import { mailFlow, unusualRulesOf } from './mailFlow';

const WEEK_MS = 7 * 86_400_000;

export const arrivalRoutes: Pick<Handlers, 'getLine' | 'getArrival' | 'getMailFlow' | 'listUnusualRules'> = {
  getLine: async ({ user, services }) => services.database.as(user.id, (tx) => lineCounts(tx, user)),

  getArrival: async ({ user, services }) => services.database.as(user.id, (tx) => arrivalOf(tx, user)),

  getMailFlow: async ({ user, query, services }) => services.database.as(user.id, (tx) => mailFlow(tx, query.weeks)),

  listUnusualRules: async ({ user, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const text = ruleTextOf(compiled);
    const since = new Date(Date.now() - WEEK_MS).toISOString().slice(0, 10);
    const rules = await services.database.as(user.id, unusualRulesOf);
    return { rules: rules.map((item) => ({ ...item, name: text(item.rule) ?? item.rule, since })) };
  },
};
