import { isRefusal } from '../base/refusal';
import { rulebookJsonSchema } from '@fulvet/core';
import type { Handlers } from '../base/handler';
import { putInForce } from './changeDraft';
import { rulebookState } from './rulebookState';

export const rulebookRoutes: Pick<Handlers, 'getRulebook' | 'rulebookSchema' | 'putRulebook'> = {
  getRulebook: async ({ user, services }) => rulebookState(services, user.id),

  rulebookSchema: () => Promise.resolve(rulebookJsonSchema()),

  putRulebook: async ({ user, body, query, services }) => {
    const refused = await putInForce(services, user, body, query.over);
    return isRefusal(refused) ? refused : rulebookState(services, user.id);
  },
};
