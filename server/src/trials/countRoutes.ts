import { isRefusal } from '../base/refusal';
import type { CompiledStop, Rulebook, RuleStop } from '@fulvet/core';
import { countRule } from '@fulvet/core';
import type { Handlers } from '../base/handler';
import type { Services } from '../base/services';
import { emailRows } from '../emails/emailRows';
import { acceptedRulebook } from '../rulebook/acceptedRulebook';
import { loadDraft } from '../rulebook/draft';
import { compiledFor, liveRulebook } from '../rulebook/liveRulebook';
import { emailsFor } from './pastMail';
import { PastMailCache } from './pastMailCache';
import { whatRuleChanges } from './whatRuleChanges';

const EXAMPLES = 8;

const DAY = 86_400_000;

/** Whoever watches a count while writing a rule gets an answer after so long, from what has been read by then. */
const PATIENCE_MS = 250;

const caches = new WeakMap<Services['database'], PastMailCache>();

/** Past mail in memory, one for the process. */
function pastMailOf({ database, blobs }: Services): PastMailCache {
  const known = caches.get(database) ?? new PastMailCache(database, blobs);
  caches.set(database, known);
  return known;
}

/** How many of the newest emails that a rule is about are decided to see what it changes. */
const MOST_TRIED = 200;

/** Puts a rule in its place among the rules of a step, at the end where it is new. */
function withRule(rulebook: Rulebook, stop: RuleStop, rule: unknown): Rulebook {
  const { rules } = rulebook[stop];
  const id = (rule as { id?: unknown } | null)?.id;
  const edited = rules.some((item) => item.id === id) ? rules.map((item) => (item.id === id ? rule : item)) : [...rules, rule];
  return { ...rulebook, [stop]: { ...rulebook[stop], rules: edited } } as Rulebook;
}

const aloneIn = (rulebook: Rulebook, stop: RuleStop, rule: object): Rulebook =>
  ({ ...rulebook, [stop]: { ...rulebook[stop], rules: [{ id: 'counted', ...rule, on: true }] } }) as Rulebook;

export const countRoutes: Pick<Handlers, 'countRule' | 'tryRule'> = {
  tryRule: async ({ user, body: { stop, rule }, services }) => {
    const { rulebook: draft } = await services.database.as(user.id, (tx) => loadDraft(tx));
    const result = await acceptedRulebook(services, withRule(draft, stop, { id: 'tried', ...(rule as object) }));
    if (isRefusal(result)) return result;
    const { database, blobs } = services;
    const before = draft[stop].rules.find((item) => item.id === (rule as { id?: unknown }).id);
    const past = await pastMailOf(services).soon(result.compiled, PATIENCE_MS);
    // What the rule took as it was may change as well.
    const about = new Set<number>();
    for (const version of before ? [before, rule as object] : [rule as object]) {
      const compiled = await compiledFor(database.worker, aloneIn(draft, stop, version));
      const alone = compiled.stops[stop] as CompiledStop<unknown>;
      const { emails } = emailsFor(past, alone, -Infinity);
      const asked = { rule: alone, earlier: alone, perPerson: stop === 'create' };
      for (const id of countRule(emails, compiled, past.directory, asked, MOST_TRIED).newest) about.add(id);
    }
    const live = await compiledFor(database.worker, draft);
    return whatRuleChanges(database, blobs, user.id, [...about], { live, changed: result.compiled }, MOST_TRIED);
  },

  countRule: async ({ user, body, services }) => {
    const { rulebook: draft } = await services.database.as(user.id, (tx) => loadDraft(tx));
    const result = await acceptedRulebook(services, aloneIn(draft, body.stop, body.rule as object));
    if (isRefusal(result)) return result;
    const { compiled } = result;
    const cache = pastMailOf(services);
    const past = body.partly ? await cache.soon(compiled, PATIENCE_MS) : await cache.whole(compiled);
    const id = (body.rule as { id?: unknown } | null)?.id;
    const rules = draft[body.stop].rules;
    const position = rules.findIndex((rule) => rule.id === id);
    const before = { ...draft, [body.stop]: { ...draft[body.stop], rules: position < 0 ? rules : rules.slice(0, position) } };
    const earlier = (await compiledFor(services.database.worker, before)).stops[body.stop] as CompiledStop<unknown>;
    const rule = compiled.stops[body.stop] as CompiledStop<unknown>;
    const { emails, of } = emailsFor(past, rule, body.days === null ? -Infinity : Date.now() - body.days * DAY);
    const counted = countRule(emails, compiled, past.directory, { rule, earlier, perPerson: body.stop === 'create' }, EXAMPLES);
    const live = await liveRulebook(services.database);
    const examples = await services.database.as(user.id, (tx) => emailRows(tx, counted.newest, live.compiled));
    return { took: counted.took, first: counted.first, of, read: past.emails.length, total: past.total, examples };
  },
};
