import { Refusal, isRefusal } from '../base/refusal';
import type { Rulebook, Suggestion } from '@fulvet/core';
import { suggestions } from '@fulvet/core';
import type { Handlers } from '../base/handler';
import type { Services } from '../base/services';
import { acceptedRulebook } from '../rulebook/acceptedRulebook';
import { draftState, keepDraft, loadDraft } from '../rulebook/draft';
import { compiledFor, liveRulebook } from '../rulebook/liveRulebook';
import { ruleTextOf } from '../rulebook/ruleTexts';
import { takeRulebookLock } from '../rulebook/rulebookLock';
import { smallTrial } from '../trials/smallTrial';
import { domainUse } from './domainUse';
import { tuningFacts } from './suggestionFacts';

async function suggestionsFor({ database }: Services, userId: number): Promise<Suggestion[]> {
  const { compiled } = await liveRulebook(database);
  return suggestions(await database.as(userId, (tx) => tuningFacts(tx, compiled)));
}

const idOf = ({ stop, rule }: Pick<Suggestion, 'stop' | 'rule'>): string =>
  `${stop}-${rule.name}`
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .slice(0, 60)
    .replace(/-$/, '');

const isIn = (rulebook: Rulebook, suggestion: Suggestion): boolean =>
  rulebook[suggestion.stop].rules.some((rule) => rule.id === idOf(suggestion));

/** The rule goes behind those that are there: what is settled stays so. */
function withRule(rulebook: Rulebook, { stop, rule }: Pick<Suggestion, 'stop' | 'rule'>): Rulebook {
  const added = { ...rule, id: idOf({ stop, rule }), on: true, appliesTo: { mailboxes: [], users: [] } };
  return { ...rulebook, [stop]: { ...rulebook[stop], rules: [...rulebook[stop].rules, added] } };
}

export const tuningRoutes: Pick<Handlers, 'listDomainUse' | 'listSuggestions' | 'takeSuggestion'> = {
  listDomainUse: async ({ user, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const text = ruleTextOf(compiled);
    const { rows, total } = await services.database.as(user.id, (tx) => domainUse(tx, query));
    return { rows: rows.map((row) => ({ ...row, rule: text(row.rule) })), total };
  },

  listSuggestions: async ({ user, services }) => {
    const { database, blobs } = services;
    const draft = await database.as(user.id, (tx) => loadDraft(tx));
    const compiled = await compiledFor(database.worker, draft.rulebook);
    const found = (await suggestionsFor(services, user.id)).filter((suggestion) => !isIn(draft.rulebook, suggestion));
    return {
      suggestions: await Promise.all(
        found.map(async ({ code, about, because, stop, rule }) => {
          const changed = await compiledFor(database.worker, withRule(draft.rulebook, { stop, rule }));
          return { code, about, because, stop, rule, effect: await smallTrial(database, blobs, about, compiled, changed) };
        }),
      ),
    };
  },

  takeSuggestion: async ({ user, body, services }) => {
    const found = (await suggestionsFor(services, user.id)).find(
      (suggestion) => suggestion.code === body.code && suggestion.about === body.about,
    );
    if (!found)
      return new Refusal('conflict', 'gone', 'This is no longer suggested: mail or records have changed. Look at the list again.');
    return services.database.as(user.id, async (tx) => {
      await takeRulebookLock(tx);
      const draft = await loadDraft(tx);
      const result = await acceptedRulebook(services, withRule(draft.rulebook, found));
      if (isRefusal(result)) return result;
      const { rulebook } = result;
      const refused = await keepDraft(tx, user.id, rulebook, draft.revision);
      if (isRefusal(refused)) return refused;
      return draftState(tx);
    });
  },
};
