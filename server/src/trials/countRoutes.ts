import { isRefusal } from '../base/refusal';
import type { CompiledStop } from '@fulvet/core';
import { countRule } from '@fulvet/core';
import type { Handlers } from '../base/handler';
import type { Services } from '../base/services';
import { emailRows } from '../emails/emailRows';
import { acceptedRulebook } from '../rulebook/acceptedRulebook';
import { loadDraft } from '../rulebook/draft';
import { compiledFor, liveRulebook } from '../rulebook/liveRulebook';
import { emailsFor } from './pastMail';
import { PastMailCache } from './pastMailCache';

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

export const countRoutes: Pick<Handlers, 'countRule'> = {
  countRule: async ({ user, body, services }) => {
    const { rulebook: draft } = await services.database.as(user.id, (tx) => loadDraft(tx));
    const given = { ...draft, [body.stop]: { ...draft[body.stop], rules: [{ id: 'counted', ...(body.rule as object), on: true }] } };
    const result = await acceptedRulebook(services, given);
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
