import type { Directory } from '../records/directory';
import type { CompiledRulebook } from '../rulebook/compile';
import type { CompiledStep } from '../rulebook/compiledStep';
import type { AskedEmail } from '../rulebook/ruleContext';
import { RuleContext } from '../rulebook/ruleContext';

/** An email of the past as rules are asked about it: with who of it is outside, and what its conversation held before it. */
export type PastEmail = AskedEmail;

const NOBODY: readonly RuleContext[] = [];

/** On how much past mail a rule would speak. */
export interface RuleCounted {
  took: number;
  /** Those on which no earlier rule of the step speaks. */
  first: number;
  /** Ids of the newest that it takes, newest first. */
  newest: number[];
}

/**
 * Counts a rule over past mail, in order of date. At Create it is asked about each external participant who is not in any record.
 *
 * @param mail the emails on which it can speak
 * @param rule a step that holds this rule alone
 * @param earlier the rules that stand before it in its step
 */
export function countRule(
  mail: Iterable<PastEmail>,
  rulebook: CompiledRulebook,
  directory: Directory,
  { rule, earlier, perPerson }: { rule: CompiledStep<unknown>; earlier: CompiledStep<unknown>; perPerson: boolean },
  examples: number,
): RuleCounted {
  let took = 0;
  let first = 0;
  // A ring of the newest: the mail comes in order of date.
  const newest: number[] = [];
  let context: RuleContext | null = null;
  for (const email of mail) {
    // One context for all of them: it is turned to the next email when the one before has been asked about.
    context ??= new RuleContext(email.facts, email.externals, email.direction, email.memory, directory, rulebook.personKey);
    context.turnTo(email);
    const speaks = perPerson ? speakingPeople(context, rule) : rule.first(context) === null ? NOBODY : [context];
    if (speaks.length === 0) continue;
    newest[took % examples] = email.facts.id;
    took += 1;
    if (speaks.some((speak) => earlier.first(speak) === null)) first += 1;
  }
  const start = took <= examples ? 0 : took % examples;
  return { took, first, newest: [...newest.slice(start), ...newest.slice(0, start)].reverse() };
}

/** The unknown participants about whom the rule speaks, each as it is asked. */
function speakingPeople(context: RuleContext, rule: CompiledStep<unknown>): readonly RuleContext[] {
  return context.externals
    .filter((external) => context.people(external).length === 0)
    .map((external) => context.about(external))
    .filter((item) => rule.first(item) !== null);
}
