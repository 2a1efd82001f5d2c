import type { ConversationMemory, DecisionFacts, Direction } from '../decision/types';
import type { Directory } from '../directory/directory';
import type { Participant } from '../message/emailFacts';
import type { CompiledRulebook } from '../rulebook/compile';
import type { CompiledStop } from '../rulebook/compiledStop';
import { RuleContext } from '../rulebook/ruleContext';

/** An email of the past as rules are asked about it: with who of it is outside, and what its conversation held before it. */
export interface PastEmail {
  facts: DecisionFacts;
  memory: ConversationMemory;
  externals: readonly Participant[];
  direction: Direction;
}

const NOBODY: readonly RuleContext[] = [];

/** On how much past mail a rule would speak. */
export interface RuleCounted {
  took: number;
  /** Those on which no earlier rule of the stop speaks. */
  first: number;
  /** Ids of the newest that it takes, newest first. */
  newest: number[];
}

/**
 * Counts a rule over past mail, in order of date. At Create it is asked about each outside participant who is on no record.
 *
 * @param mail the emails on which it can speak
 * @param rule a stop that holds this rule alone
 * @param earlier the rules that stand before it in its stop
 */
export function countRule(
  mail: Iterable<PastEmail>,
  rulebook: CompiledRulebook,
  directory: Directory,
  { rule, earlier, perPerson }: { rule: CompiledStop<unknown>; earlier: CompiledStop<unknown>; perPerson: boolean },
  examples: number,
): RuleCounted {
  let took = 0;
  let first = 0;
  // A ring of the newest: the mail comes in order of date.
  const newest: number[] = [];
  const key = (address: string): string => rulebook.personKey(address);
  for (const { facts, memory, externals, direction } of mail) {
    const context = new RuleContext(facts, externals, direction, memory, directory, key);
    const speaks = perPerson ? speakingPeople(context, rule) : rule.first(context) === null ? NOBODY : [context];
    if (speaks.length === 0) continue;
    newest[took % examples] = facts.id;
    took += 1;
    if (speaks.some((one) => earlier.first(one) === null)) first += 1;
  }
  const start = took <= examples ? 0 : took % examples;
  return { took, first, newest: [...newest.slice(start), ...newest.slice(0, start)].reverse() };
}

/** The unknown participants about whom the rule speaks, each as it is asked. */
function speakingPeople(context: RuleContext, rule: CompiledStop<unknown>): readonly RuleContext[] {
  return context.externals
    .filter((one) => context.people(one).length === 0)
    .map((one) => context.about(one))
    .filter((one) => rule.first(one) !== null);
}
