import { rulebookDraft } from '../base/db/schema';
import { Refusal, isRefusal } from '../base/refusal';
import type { Handlers } from '../base/handler';
import { acceptedRulebook } from './acceptedRulebook';
import { demandRevision, draftState, keepDraft, loadDraft } from './draft';
import { draftFindings } from './draftFindings';
import { putRulebook } from './liveRulebook';
import { tookIn } from './ruleUse';
import { takeRulebookLock } from './rulebookLock';
import { rulebookState } from './rulebookState';
import { noteDraft } from './undoDraft';

export const draftRoutes: Pick<Handlers, 'getDraft' | 'putDraft' | 'dropDraft' | 'putDraftLive' | 'checkDraft' | 'useOfRules'> = {
  getDraft: ({ user, services }) => services.database.as(user.id, (tx) => draftState(tx)),

  putDraft: async ({ user, body, query, services }) => {
    const result = await acceptedRulebook(services, body);
    if (isRefusal(result)) return result;
    const { rulebook } = result;
    return services.database.as(user.id, async (tx) => {
      const before = await keepDraft(tx, user.id, rulebook, query.revision);
      if (isRefusal(before)) return before;
      const undo = await noteDraft(tx, user.id, before);
      return { ...(await draftState(tx)), undo };
    });
  },

  dropDraft: ({ user, services }) =>
    services.database.as(user.id, async (tx) => {
      const before = await loadDraft(tx);
      await tx.delete(rulebookDraft);
      const undo = await noteDraft(tx, user.id, before);
      return { ...(await draftState(tx)), undo };
    }),

  putDraftLive: async ({ user, body, services }) => {
    const refused = await services.database.as(user.id, async (tx) => {
      await takeRulebookLock(tx);
      const draft = await demandRevision(tx, body.revision);
      if (isRefusal(draft)) return draft;
      const { differences } = await draftState(tx);
      if (differences.length === 0) return new Refusal('conflict', 'nothing-changed', 'The draft says the same as what is in force.');
      if (draft.baseVersion !== draft.liveVersion)
        return new Refusal(
          'conflict',
          'changed-meanwhile',
          `Version ${draft.liveVersion} was put in force after this draft was begun. Throw the draft away, or make its changes again over what is in force.`,
        );
      const summary = [body.note, ...differences].filter(Boolean).join('\n').slice(0, 4000);
      await putRulebook(tx, draft.rulebook, summary, user.id);
      await tx.delete(rulebookDraft);
      return null;
    });
    if (isRefusal(refused)) return refused;
    return rulebookState(services, user.id);
  },

  checkDraft: async ({ user, services }) => {
    const { rulebook, live } = await services.database.as(user.id, (tx) => loadDraft(tx));
    return { findings: await draftFindings(services, rulebook, live) };
  },

  useOfRules: async ({ services }) => ({ rules: [...(await tookIn(services, 30)).values()] }),
};
