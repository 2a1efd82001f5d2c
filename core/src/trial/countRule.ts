import { directionOf, externalParticipants } from '../decision/decide';
import type { ConversationMemory, DecisionFacts } from '../decision/types';
import type { Directory } from '../directory/directory';
import type { CompiledRulebook } from '../rulebook/compile';
import type { CompiledStop } from '../rulebook/compiledStop';
import { RuleContext } from '../rulebook/ruleContext';

/** On how much past mail a rule would speak. */
export interface RuleCounted {
  of: number;
  took: number;
  /** Those on which no earlier rule of the stop speaks. */
  first: number;
  /** Ids of the newest that it takes, newest first. */
  newest: number[];
}

/**
 * Counts a rule over past mail, in order of date. At Create it is asked about each outside participant who is on no record.
 *
 * @param rule a stop that holds this rule alone
 * @param earlier the rules that stand before it in its stop
 */
export function countRule(
  mail: Iterable<{ facts: DecisionFacts; memory: ConversationMemory }>,
  rulebook: CompiledRulebook,
  directory: Directory,
  { rule, earlier, perPerson }: { rule: CompiledStop<unknown>; earlier: CompiledStop<unknown>; perPerson: boolean },
  examples: number,
): RuleCounted {
  const counted: RuleCounted = { of: 0, took: 0, first: 0, newest: [] };
  const key = (address: string): string => rulebook.personKey(address);
  for (const { facts, memory } of mail) {
    counted.of += 1;
    const externals = externalParticipants(facts.participants, rulebook);
    const context = new RuleContext(facts, externals, directionOf(facts.participants, externals, rulebook), memory, directory, key);
    const asked = perPerson ? externals.filter((one) => context.people(one).length === 0).map((one) => context.about(one)) : [context];
    const speaks = asked.filter((one) => rule.first(one) !== null);
    if (speaks.length === 0) continue;
    counted.took += 1;
    if (speaks.some((one) => earlier.first(one) === null)) counted.first += 1;
    counted.newest.unshift(facts.id);
    counted.newest.length = Math.min(counted.newest.length, examples);
  }
  return counted;
}
