import { countRule } from '@fulvet/core';
import type { CompiledStop } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { emailRows } from '../emails/emailRows';
import type { Services } from '../base/services';
import { emailsFor } from '../trials/pastMail';
import { PastMailCache } from '../trials/pastMailCache';
import { acceptedRulebook } from '../rulebook/acceptedRulebook';
import { draftFindings } from '../rulebook/draftFindings';
import { tookIn } from '../rulebook/ruleUse';
import { demandRevision, draftState, keepDraft, loadDraft } from '../rulebook/draft';
import { takeRulebookLock } from '../rulebook/rulebookLock';
import { compiledFor, liveRulebook, putRulebook } from '../rulebook/liveRulebook';
import { Refusal } from '../base/refusal';
import type { Handlers } from '../base/handler';
import { rulebookState } from './rulebookHandlers';

type DraftHandlers = Pick<Handlers, 'getDraft' | 'putDraft' | 'dropDraft' | 'putDraftLive' | 'checkDraft' | 'countRule' | 'useOfRules'>;

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

export const draftHandlers: DraftHandlers = {
  getDraft: ({ user, services }) => services.database.as(user.id, (tx) => draftState(tx)),

  putDraft: async ({ user, body, query, services }) => {
    const { rulebook } = await acceptedRulebook(services, body);
    return services.database.as(user.id, async (tx) => {
      await keepDraft(tx, user.id, rulebook, query.revision);
      return draftState(tx);
    });
  },

  dropDraft: ({ user, services }) =>
    services.database.as(user.id, async (tx) => {
      await tx.execute(sql`DELETE FROM rulebook_draft`);
      return draftState(tx);
    }),

  putDraftLive: async ({ user, body, services }) => {
    await services.database.as(user.id, async (tx) => {
      await takeRulebookLock(tx);
      const draft = await demandRevision(tx, body.revision);
      const { differences } = await draftState(tx);
      if (differences.length === 0) throw new Refusal(409, 'nothing-changed', 'The draft says the same as what is in force.');
      if (draft.baseVersion !== draft.liveVersion)
        throw new Refusal(
          409,
          'changed-meanwhile',
          `Version ${draft.liveVersion} was put in force after this draft was begun. Throw the draft away, or make its changes again over what is in force.`,
        );
      const summary = [body.note, ...differences].filter(Boolean).join('\n').slice(0, 4000);
      await putRulebook(tx, draft.rulebook, summary, user.id);
      await tx.execute(sql`DELETE FROM rulebook_draft`);
    });
    return rulebookState(services, user.id);
  },

  checkDraft: async ({ user, services }) => {
    const { rulebook, live } = await services.database.as(user.id, (tx) => loadDraft(tx));
    return { findings: await draftFindings(services, rulebook, live) };
  },

  countRule: async ({ user, body, services }) => {
    const { rulebook: draft } = await services.database.as(user.id, (tx) => loadDraft(tx));
    const given = { ...draft, [body.stop]: { ...draft[body.stop], rules: [{ id: 'counted', ...(body.rule as object), on: true }] } };
    const { compiled } = await acceptedRulebook(services, given);
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

  useOfRules: async ({ services }) => ({ rules: [...(await tookIn(services, 30)).values()] }),
};
