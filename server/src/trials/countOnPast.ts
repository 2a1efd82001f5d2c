import { isRefusal } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { CompiledRulebook, CompiledStep, Rule, Rulebook, RuleCounted, RuleStep } from '@fulvet/core';
import { countRule } from '@fulvet/core';
import type { RuleChanges, RuleCount, User } from '@fulvet/contract';
import type { Services } from '../base/services';
import { emailRows } from '../emails/emailRows';
import { acceptedRulebook } from '../rulebook/acceptedRulebook';
import { loadDraft } from '../rulebook/draft';
import { compiledFor, liveRulebook } from '../rulebook/liveRulebook';
import { keyedPast } from './keyedPast';
import type { PastMail } from './pastMail';
import { emailsFor } from './pastMail';
import { PastMailCache } from './pastMailCache';
import { whatRuleChanges } from './whatRuleChanges';

const EXAMPLES = 8;

const DAY = 86_400_000;

/** Whoever watches a count while writing a rule gets an answer after so long, from what has been read by then. */
const PATIENCE_MS = 250;

/** How many of the newest emails that a rule is about are decided to see what it changes. */
const MOST_TRIED = 200;

/** The id of a rule that has none yet. */
const NEW_RULE = 'new-rule';

const caches = new WeakMap<Services['database'], PastMailCache>();

/** Past mail in memory, one for the process. */
function pastMailOf({ database, blobs }: Services): PastMailCache {
  const known = caches.get(database) ?? new PastMailCache(database, blobs);
  caches.set(database, known);
  return known;
}

/** A rule as it is being written: whatever the page sent. */
export interface WrittenRule {
  step: RuleStep;
  rule: unknown;
}

/** The draft, and the draft with a rule in its place: at the end of its step where it is new. */
interface RuleInDraft {
  draft: Rulebook;
  compiled: CompiledRulebook;
  /** The step with the rule. */
  step: CompiledStep<unknown>;
  rule: Rule<unknown>;
  /** The rule as the draft has it; undefined where it is new. */
  before: Rule<unknown> | undefined;
  /** Ids of the rules that stand before it. */
  earlier: ReadonlySet<string>;
}

async function ruleInDraft(services: Services, user: User, { step, rule }: WrittenRule): Promise<RuleInDraft | Refusal> {
  const { rulebook: draft } = await services.database.as(user.id, (tx) => loadDraft(tx));
  const written = { id: NEW_RULE, ...(rule as { id?: string }) };
  const rules: Rule<unknown>[] = draft[step].rules;
  const before = rules.find((item) => item.id === written.id);
  const edited = before ? rules.map((item) => (item === before ? written : item)) : [...rules, written];
  const accepted = await acceptedRulebook(services, { ...draft, [step]: { ...draft[step], rules: edited } });
  if (isRefusal(accepted)) return accepted;
  const { compiled, rulebook } = accepted;
  const all: Rule<unknown>[] = rulebook[step].rules;
  const place = all.findIndex((item) => item.id === written.id);
  const read = all[place];
  if (!read) throw new Error('the rule that was read is not there');
  const earlier = new Set(all.slice(0, place).map((item) => item.id));
  return { draft, compiled, step: compiled.steps[step] as CompiledStep<unknown>, rule: read, before, earlier };
}

interface Counting {
  compiled: CompiledRulebook;
  step: RuleStep;
  /** A step with the rule alone. */
  alone: CompiledStep<unknown>;
  /** Those before it. */
  earlier: CompiledStep<unknown>;
  since: number;
  examples: number;
}

function countOn(past: PastMail, { compiled, step, alone, earlier, since, examples }: Counting): RuleCounted & { of: number } {
  const { emails, of } = emailsFor(past, alone, since);
  const asked = { rule: alone, earlier, perPerson: step === 'create' };
  return { ...countRule(emails, compiled, past.directory, asked, examples), of };
}

/** On how much past mail a rule would speak, with its newest examples. */
export async function countOnPast(
  services: Services,
  user: User,
  written: WrittenRule,
  { days, partly }: { days: number | null; partly: boolean },
): Promise<RuleCount | Refusal> {
  const found = await ruleInDraft(services, user, written);
  if (isRefusal(found)) return found;
  const { compiled, step, rule, earlier } = found;
  const cache = pastMailOf(services);
  const since = days === null ? -Infinity : Date.now() - days * DAY;
  const alone = step.alone(rule);
  const keyed = partly && days === null && !cache.isWhole ? await keyedPast(services.database, services.blobs, compiled, [alone]) : null;
  const past = keyed ?? (partly ? await cache.soon(compiled, PATIENCE_MS) : await cache.whole(compiled));
  const asked = { compiled, step: written.step, alone, earlier: step.among(earlier), since, examples: EXAMPLES };
  const { newest, ...counted } = countOn(past, asked);
  // What was found by its keys stands for all mail: the rule cannot speak on any other.
  const counts = keyed ? { ...counted, of: keyed.total } : counted;
  const read = keyed ? keyed.total : past.emails.length;
  const live = await liveRulebook(services.database);
  const examples = await services.database.as(user.id, (tx) => emailRows(tx, newest, live.compiled));
  return { ...counts, read, total: past.total, examples };
}

/** What a rule would change: the newest emails that it is about, and that it was about, are decided with the draft as it is and with the rule. */
export async function tryRule(services: Services, user: User, written: WrittenRule): Promise<RuleChanges | Refusal> {
  const found = await ruleInDraft(services, user, written);
  if (isRefusal(found)) return found;
  const { draft, compiled, step, rule, before } = found;
  const live = await compiledFor(services.database.worker, draft);
  const standing = live.steps[written.step] as CompiledStep<unknown>;
  const versions = [{ compiled, alone: step.alone(rule) }, ...(before ? [{ compiled: live, alone: standing.alone(before) }] : [])];
  const cache = pastMailOf(services);
  const rules = versions.map(({ alone }) => alone);
  const keyed = cache.isWhole ? null : await keyedPast(services.database, services.blobs, compiled, rules);
  const past = keyed ?? (await cache.soon(compiled, PATIENCE_MS));
  const about = new Set(
    versions.flatMap((version) => {
      const counting = { ...version, step: written.step, earlier: version.alone, since: -Infinity, examples: MOST_TRIED };
      return countOn(past, counting).newest;
    }),
  );
  return whatRuleChanges(services.database, services.blobs, user.id, [...about], { live, changed: compiled }, MOST_TRIED);
}
