import type { Participant } from '../emails/emailFacts';
import type { CompiledRulebook } from '../rulebook/compile';
import { RULES } from '../rulebook/schema';
import type { RuleContext } from '../rulebook/ruleContext';
import { ruleEvidence } from './ruleEvidence';
import type { DecisionFacts } from '../facts/types';
import type { Evidence, StepEntry } from './types';

/** What the first step leaves for the next ones. */
export interface KeepOutVerdict {
  keptOut: boolean;
  /** External participants that still count. */
  remaining: readonly Participant[];
  entry: StepEntry;
}

/**
 * The step at which an email may be kept out.
 *
 * The rules are asked in order: the first that lets through or keeps out decides, and those that ignore participants before it
 * count. Where none does, internal mail and machine mail go. Then every external participant is looked up among the entries: one may
 * keep the whole email out; else the participant is ignored, and the email is kept out only if no one external is left. So is a
 * participant whom everyone in whose mailbox it lies keeps out of their own mail.
 *
 * @param cameBy how it came, where that makes it count as its author wrote it
 */
export function keepOut(
  facts: DecisionFacts,
  context: RuleContext,
  rulebook: CompiledRulebook,
  cameBy: readonly Evidence[] = [],
): KeepOutVerdict {
  const { direction } = context;
  const { externals } = context;
  const { source } = rulebook;
  const ignored: string[] = [];
  const evidence: Evidence[] = [...cameBy];
  let lastRule: string | null = null;
  for (const { rule, test } of rulebook.steps.keepOut.candidatesFor(externals)) {
    const hits = test(context);
    if (hits === null) continue;
    const said = ruleEvidence({ rule, hits });
    const named = new Set(hits.flatMap((hit) => hit.participant ?? []));
    if (rule.then.do === 'letThrough') {
      evidence.push(said);
      return letThrough(facts, rulebook, { externals: left(externals, ignored), named, rule: rule.id, evidence });
    }
    if (rule.then.do === 'keepOut' || named.size === 0) return spoken(true, [], rule.id, [...evidence, said]);
    ignored.push(...named);
    lastRule = rule.id;
    evidence.push(said);
  }
  if (direction === 'internal' && source.keepOut.internal) {
    return spoken(true, [], RULES.internal, [{ fact: 'direction', direction, external: 0 }]);
  }
  if (rulebook.keepsOutClass(facts.mailClass)) {
    const proof = facts.classProof ?? { header: '', value: '' };
    return spoken(true, externals, RULES.machineMail, [{ fact: 'mail class', mailClass: facts.mailClass, ...proof }]);
  }

  const remaining: Participant[] = [];
  for (const participant of left(externals, ignored)) {
    const hit = rulebook.entryFor(participant.address, participant.domain);
    const said: Evidence | null = hit
      ? { fact: 'entry', entry: hit.id, value: hit.value, participant: participant.address, effect: hit.effect }
      : null;
    // What keeps the whole email out goes before an owner's word about one who takes part.
    if (hit?.effect === 'keepOut' && said) return spoken(true, [], hit.id, [said]);
    if (facts.ownKeptOut.includes(participant.address)) {
      lastRule = RULES.ownKeepOut;
      evidence.push({ fact: 'own keep out', participant: participant.address });
    } else if (hit && said) {
      lastRule = hit.id;
      evidence.push(said);
    } else remaining.push(participant);
  }
  if (externals.length > 0 && remaining.length === 0) {
    evidence.push({ fact: 'no one left', ignored: externals.length });
    return spoken(true, [], lastRule, evidence);
  }
  return spoken(false, remaining, lastRule, evidence);
}

interface LetThrough {
  externals: readonly Participant[];
  /** Those of whom the rule speaks. */
  named: ReadonlySet<string>;
  rule: string;
  evidence: Evidence[];
}

/**
 * An email that a rule lets through is not kept out. Whom the rule speaks of counts, listed or not; others who are listed do not count for
 * that, as long as someone is left: the lawyer in copy of a customer's email. Whom everyone who has the email keeps out of their own mail,
 * no rule brings in.
 */
function letThrough(
  { ownKeptOut }: DecisionFacts,
  rulebook: CompiledRulebook,
  { externals, named, rule, evidence }: LetThrough,
): KeepOutVerdict {
  const own = externals.filter((external) => ownKeptOut.includes(external.address));
  for (const { address } of own) evidence.push({ fact: 'own keep out', participant: address });
  if (own.length > 0 && own.length === externals.length)
    return spoken(true, [], RULES.ownKeepOut, [...evidence, { fact: 'no one left', ignored: own.length }]);
  const wanted = own.length === 0 ? externals : externals.filter((external) => !own.includes(external));
  const listed = wanted.flatMap((participant) => {
    const entry = named.has(participant.address) ? undefined : rulebook.entryFor(participant.address, participant.domain);
    return entry ? [{ one: participant, entry }] : [];
  });
  if (listed.length === 0 || listed.length === wanted.length) return spoken(false, wanted, rule, evidence);
  for (const { one, entry } of listed)
    evidence.push({ fact: 'entry', entry: entry.id, value: entry.value, participant: one.address, effect: 'ignore' });
  return spoken(
    false,
    wanted.filter((participant) => !listed.some((it) => it.one === participant)),
    rule,
    evidence,
  );
}

function left(externals: readonly Participant[], ignored: readonly string[]): readonly Participant[] {
  return ignored.length === 0 ? externals : externals.filter((external) => !ignored.includes(external.address));
}

function spoken(keptOut: boolean, remaining: readonly Participant[], rule: string | null, evidence: Evidence[]): KeepOutVerdict {
  return { keptOut, remaining, entry: { step: 'keepOut', verdict: keptOut ? 'kept out' : 'passed', rule, evidence } };
}
