import { isRefusal } from '../base/refusal';
import type { Handlers } from '../base/handler';
import { draftState, loadDraft } from './draft';
import { draftFindings } from './draftFindings';
import { dropDraft, putDraft, putDraftLive } from './changeDraft';
import { tookIn } from './ruleUse';
import { rulebookState } from './rulebookState';

export const draftRoutes: Pick<Handlers, 'getDraft' | 'putDraft' | 'dropDraft' | 'putDraftLive' | 'checkDraft' | 'useOfRules'> = {
  getDraft: ({ user, services }) => services.database.as(user.id, (tx) => draftState(tx)),

  putDraft: ({ user, body, query, services }) => putDraft(services, user, body, query.revision),

  dropDraft: ({ user, services }) => dropDraft(services.database, user),

  putDraftLive: async ({ user, body, services }) => {
    const refused = await putDraftLive(services.database, user, body);
    return isRefusal(refused) ? refused : rulebookState(services, user.id);
  },

  checkDraft: async ({ user, services }) => {
    const { rulebook, live } = await services.database.as(user.id, (tx) => loadDraft(tx));
    return { findings: await draftFindings(services, rulebook, live) };
  },

  useOfRules: async ({ services }) => ({ rules: [...(await tookIn(services, 30)).values()] }),
};
