import type { Finding, RuleUse } from '@fulvet/contract';
import { checkRulebook, countRule, leavesOf, RULE_STOPS } from '@fulvet/core';
import type { CompiledStop, Rulebook, RulebookFinding, RuleStop } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { emailRows } from '../mail/emailRows';
import type { Services } from '../services';
import { PastMailCache } from '../trial/pastMail';
import { acceptedRulebook } from '../workspace/acceptedRulebook';
import { demandRevision, draftState, keepDraft, listNames, loadDraft } from '../workspace/draftStore';
import { takeRulebookLock } from '../workspace/rulebookLock';
import { compiledFor, liveRulebook, putRulebook } from '../workspace/rulebookStore';
import { RequestError } from './errors';
import type { Handlers } from './handler';
import { rulebookState } from './rulebookHandlers';

type DraftHandlers = Pick<Handlers, 'getDraft' | 'putDraft' | 'dropDraft' | 'putDraftLive' | 'checkDraft' | 'countRule' | 'useOfRules'>;

const EXAMPLES = 8;
const DAY = 86_400_000;
const QUIET_DAYS = 90;
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
    const rulebook = await acceptedRulebook(services, body);
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
      if (differences.length === 0) throw new RequestError(409, 'nothing-changed', 'The draft says the same as what is in force.');
      if (draft.baseVersion !== draft.liveVersion)
        throw new RequestError(
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
    const compiled = await compiledFor(services.database.worker, rulebook);
    const names = await listNames(services.database.worker);
    const found = checkRulebook(rulebook, {
      lists: new Set(names.keys()),
      records: await namedRecords(services, rulebook),
      isPublicProvider: (domain) => compiled.isPublicProvider(domain),
    });
    const took = await tookIn(services, QUIET_DAYS);
    return {
      findings: [
        ...found.map((one): Finding => ({
          ...asFinding(one, rulebook),
          emails: one.rule === null ? null : (took.get(one.rule)?.took ?? 0),
        })),
        ...quietRules(rulebook, live, took),
        ...(await missingDomains(services)),
      ],
    };
  },

  countRule: async ({ user, body, services }) => {
    const { rulebook: draft } = await services.database.as(user.id, (tx) => loadDraft(tx));
    const given = { ...draft, [body.stop]: { ...draft[body.stop], rules: [{ id: 'counted', ...(body.rule as object), on: true }] } };
    const rulebook = await acceptedRulebook(services, given);
    const compiled = await compiledFor(services.database.worker, rulebook);
    const past = await pastMailOf(services).get();
    const id = (body.rule as { id?: unknown } | null)?.id;
    const rules = draft[body.stop].rules;
    const position = rules.findIndex((rule) => rule.id === id);
    const before = { ...draft, [body.stop]: { ...draft[body.stop], rules: position < 0 ? rules : rules.slice(0, position) } };
    const earlier = (await compiledFor(services.database.worker, before)).stops[body.stop] as CompiledStop<unknown>;
    const since = body.days === null ? -Infinity : Date.now() - body.days * DAY;
    const counted = countRule(
      past.emails.filter(({ email }) => email.facts.at >= since).map(({ email, memory }) => ({ facts: email.facts, memory })),
      compiled,
      past.directory,
      { rule: compiled.stops[body.stop] as CompiledStop<unknown>, earlier, perPerson: body.stop === 'create' },
      EXAMPLES,
    );
    const live = await liveRulebook(services.database);
    const examples = await services.database.as(user.id, (tx) => emailRows(tx, counted.newest, live.compiled));
    return { took: counted.took, first: counted.first, of: counted.of, examples };
  },

  useOfRules: async ({ services }) => ({ rules: [...(await tookIn(services, 30)).values()] }),
};

/** What each rule took in the last days, by what the stops said. */
async function tookIn(services: Services, days: number): Promise<Map<string, RuleUse>> {
  const { rows } = await services.database.worker.execute<{ rule: string; took: number; last: string }>(sql`
    SELECT rule, count(DISTINCT id)::int AS took, max(sent_at) AS last FROM (
      SELECT e.id, e.sent_at, s ->> 'rule' AS rule FROM emails e, jsonb_array_elements(e.stops) s WHERE e.sent_at > now() - make_interval(days => ${days}) AND s ->> 'rule' IS NOT NULL
      UNION ALL SELECT e.id, e.sent_at, v ->> 'rule' FROM emails e JOIN dockets k ON k.email_id = e.id, jsonb_array_elements(k.docket) s, jsonb_array_elements(s -> 'evidence') v
        WHERE e.sent_at > now() - make_interval(days => ${days}) AND v ->> 'fact' = 'rule'
      UNION ALL SELECT e.id, e.sent_at, v ->> 'entry' FROM emails e JOIN dockets k ON k.email_id = e.id, jsonb_array_elements(k.docket) s, jsonb_array_elements(s -> 'evidence') v
        WHERE e.sent_at > now() - make_interval(days => ${days}) AND v ->> 'fact' = 'entry') u GROUP BY rule`);
  return new Map(rows.map((row) => [row.rule, { rule: row.rule, took: row.took, lastAt: new Date(row.last).toISOString() }]));
}

async function namedRecords(services: Services, rulebook: Rulebook): Promise<Set<string>> {
  const named = RULE_STOPS.flatMap((stop) => rulebook[stop].rules.flatMap((rule) => [...leavesOf(rule.when)]))
    .flatMap((leaf) => (leaf.fact === 'filedUnder' ? [{ kind: leaf.kind as string, id: leaf.id }] : []))
    .concat(rulebook.match.rules.flatMap(({ then }) => (then.do === 'fileUnder' ? [{ kind: then.kind, id: then.id }] : [])));
  if (named.length === 0) return new Set();
  const { rows } = await services.database.worker.execute<{
    key: string;
  }>(sql`SELECT n.kind || ':' || n.id AS key FROM json_to_recordset(${JSON.stringify(named)}::json) AS n(kind text, id bigint)
    WHERE EXISTS (SELECT FROM accounts r WHERE n.kind = 'account' AND r.id = n.id) OR EXISTS (SELECT FROM contacts r WHERE n.kind = 'contact' AND r.id = n.id)
      OR EXISTS (SELECT FROM leads r WHERE n.kind = 'lead' AND r.id = n.id) OR EXISTS (SELECT FROM deals r WHERE n.kind = 'deal' AND r.id = n.id)`);
  return new Set(rows.map((row) => row.key));
}

const nameIn = (rulebook: Rulebook, stop: RuleStop | null, id: string | null): string => {
  const rules: readonly { id: string; name: string }[] = stop ? rulebook[stop].rules : [];
  return `“${rules.find((rule) => rule.id === id)?.name || id || ''}”`;
};

function asFinding({ code, stop, rule, other, repaired }: RulebookFinding, rulebook: Rulebook): Omit<Finding, 'emails'> {
  const name = nameIn(rulebook, stop, rule);
  const sentences: Record<RulebookFinding['code'], string> = {
    covered: `${name} can never speak: ${nameIn(rulebook, stop, other)} before it speaks on all that it would.`,
    repeats: `${name} says the same as ${nameIn(rulebook, stop, other)}.`,
    'matches-all': `${name} speaks on every email; the rules after it are never asked.`,
    'matches-none': `${name} can hold on no email: one of its groups is empty.`,
    'list-gone': `${name} asks for a list that is gone.`,
    'record-gone': `${name} names the record ${other ?? ''}, which is gone.`,
    'pattern-all': `A pattern of ${name} matches everything.`,
    'both-sides': `${other ?? ''} is let through by ${name} and stands among the kept-out domains and addresses; the rule goes first.`,
    'provider-entry': `${other ?? ''} is a public mail provider: customers who write from a private address there are kept out as well.`,
  };
  return {
    code,
    stop,
    rule,
    message: sentences[code],
    repair: repaired === null ? null : { label: 'Remove that rule', document: repaired },
  };
}

/** Rules in force that are kept in the draft and took nothing; what is new has had no time to. */
function quietRules(rulebook: Rulebook, live: Rulebook, took: ReadonlyMap<string, RuleUse>): Finding[] {
  return RULE_STOPS.flatMap((stop) =>
    rulebook[stop].rules
      .filter((rule) => rule.on && !took.has(rule.id) && live[stop].rules.some((one) => one.id === rule.id))
      .map((rule) => ({
        code: 'quiet',
        stop,
        rule: rule.id,
        message: `${nameIn(rulebook, stop, rule.id)} took nothing in ${QUIET_DAYS} days.`,
        emails: 0,
        repair: null,
      })),
  );
}

/** Domains from which members write that are not among our own. */
async function missingDomains(services: Services): Promise<Finding[]> {
  const { compiled } = await liveRulebook(services.database);
  const { rows } = await services.database.worker.execute<{ domain: string; members: number }>(
    sql`SELECT lower(split_part(email, '@', 2)) AS domain, count(*)::int AS members FROM users WHERE active GROUP BY 1`,
  );
  return rows
    .filter(({ domain }) => !compiled.isOurs(`somebody@${domain}`, domain) && !compiled.isPublicProvider(domain))
    .map(({ domain, members }) => ({
      code: 'own-domain',
      stop: null,
      rule: null,
      message: `${members} ${members === 1 ? 'member has an address' : 'members have addresses'} at ${domain}, which is not among our own domains: colleagues there who have no mailbox count as outside.`,
      emails: null,
      repair: null,
    }));
}
