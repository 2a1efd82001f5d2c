import { isRefusal, notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { Docket } from '@fulvet/core';
import { docketSentences } from '@fulvet/core';
import type { Handlers } from '../base/handler';
import { liveRulebook } from '../rulebook/liveRulebook';
import { decidedTwice, loadTrial, loadTrials, trialMade, trialRows } from './queries';
import { cancelTrial, deleteTrial, startTrial } from './startTrial';
import { TRIAL_COLUMNS, trialJson, trialLine } from './trialFile';

const EXPORT_PAGE = 500;

export const trialRoutes: Pick<
  Handlers,
  | 'listTrials'
  | 'startTrial'
  | 'getTrial'
  | 'cancelTrial'
  | 'deleteTrial'
  | 'listTrialRows'
  | 'listTrialMade'
  | 'getTrialDocket'
  | 'exportTrial'
> = {
  listTrials: async ({ user, services }) => ({ trials: await services.database.as(user.id, (tx) => loadTrials(tx)) }),

  startTrial: ({ user, body, services }) => startTrial(services, user, body),

  getTrial: ({ user, params, services }) => services.database.as(user.id, (tx) => loadTrial(tx, params.id)),

  cancelTrial: ({ user, params, services }) => cancelTrial(services.database, user, params.id),

  deleteTrial: ({ user, params, services }) => deleteTrial(services.database, user, params.id),

  listTrialRows: async ({ user, params, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, async (tx) => {
      const refused = await loadTrial(tx, params.id);
      if (isRefusal(refused)) return refused;
      return trialRows(tx, params.id, query, compiled);
    });
  },

  listTrialMade: ({ user, params, query, services }) =>
    services.database.as(user.id, async (tx) => {
      const refused = await loadTrial(tx, params.id);
      if (isRefusal(refused)) return refused;
      return trialMade(tx, params.id, query);
    }),

  getTrialDocket: ({ user, params, services }) =>
    services.database.as(user.id, async (tx) => {
      const row = await decidedTwice(tx, params.id, params.email);
      if (!row) return notFound('email of this trial that you may read');
      const inWords = (docket: Docket) => docketSentences(docket).map((entry) => ({ ...entry, ruleText: null }));
      return { before: inWords(row.before ?? []), after: inWords(row.after), step: row.step };
    }),

  exportTrial: async ({ user, params, query, services, res }) => {
    const { compiled } = await liveRulebook(services.database);
    const page = (offset: number) =>
      services.database.as(user.id, async (tx) => {
        const refused = await loadTrial(tx, params.id);
        if (isRefusal(refused)) return refused;
        return trialRows(tx, params.id, { offset, limit: EXPORT_PAGE }, compiled);
      });
    const first = await page(0);
    if (isRefusal(first)) return first;
    res.set('Content-Type', query.format === 'csv' ? 'text/csv; charset=utf-8' : 'application/jsonl; charset=utf-8');
    res.attachment(`trial-${params.id}.${query.format}`);
    const lines = async function* (): AsyncGenerator<string> {
      if (query.format === 'csv') yield `${TRIAL_COLUMNS}\n`;
      for (let offset = 0, part: typeof first | Refusal = first; ; offset += EXPORT_PAGE, part = await page(offset)) {
        // A trial that is deleted meanwhile ends the download before its end, so that nothing seems complete that is not.
        if (isRefusal(part)) throw new Error(part.message);
        if (part.rows.length === 0) return;
        yield part.rows.map((row) => (query.format === 'csv' ? trialLine(row) : trialJson(row))).join('');
      }
    };
    const refused = await services.downloads.send(user, res, lines());
    if (isRefusal(refused)) return refused;
    return undefined;
  },
};
