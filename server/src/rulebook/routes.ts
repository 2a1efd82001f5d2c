import { Refusal, isRefusal } from '../base/refusal';
import { differenceWords, rulebookJsonSchema } from '@fulvet/core';
import type { Handlers } from '../base/handler';
import { acceptedRulebook } from './acceptedRulebook';
import { listNames } from './draft';
import { putRulebook, storedRulebook } from './liveRulebook';
import { takeRulebookLock } from './rulebookLock';
import { rulebookState } from './rulebookState';

export const rulebookRoutes: Pick<Handlers, 'getRulebook' | 'rulebookSchema' | 'putRulebook'> = {
  getRulebook: async ({ user, services }) => rulebookState(services, user.id),

  rulebookSchema: () => Promise.resolve(rulebookJsonSchema()),

  putRulebook: async ({ user, body, query, services }) => {
    const result = await acceptedRulebook(services, body);
    if (isRefusal(result)) return result;
    const { rulebook } = result;
    const refused = await services.database.as(user.id, async (tx) => {
      await takeRulebookLock(tx);
      const current = await storedRulebook(tx);
      if (query.over !== undefined && query.over !== current.version)
        return new Refusal(
          'conflict',
          'changed-meanwhile',
          `Version ${current.version} was put in force meanwhile. Look at it, then save again.`,
        );
      const differences = differenceWords(current.rulebook, rulebook, await listNames(tx));
      await putRulebook(tx, rulebook, differences.join('\n').slice(0, 4000) || 'Nothing changed', user.id);
      return null;
    });
    if (isRefusal(refused)) return refused;
    return rulebookState(services, user.id);
  },
};
