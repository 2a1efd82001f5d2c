import { directionOf, externalParticipants } from '../decide';
import { factsAsCounted } from '../ownList';
import type { Step } from '../../facts/types';
import { STEPS } from '../../facts/types';
import { Directory } from '../../records/directory';
import type { Condition } from '../../rulebook/condition';
import { RuleContext } from '../../rulebook/ruleContext';
import type { Situation } from './situation';

/** A rule that nearly spoke on an email. */
export interface NearMiss {
  step: Step;
  rule: string;
  name: string;
  /** The one part of its condition that did not hold, or null where all hold and it is for other mailboxes or members. */
  missing: Condition | null;
}

/** The rules of which all hold but one part of the condition, or but whom they are for. */
export function nearMisses({ facts: asRead, rulebook, records, memory }: Situation): NearMiss[] {
  const facts = factsAsCounted(asRead, rulebook, memory);
  const key = (address: string): string => rulebook.personKey(address);
  const externals = externalParticipants(facts.participants, rulebook);
  const direction = directionOf(facts.participants, externals, rulebook);
  const context = new RuleContext(facts, externals, direction, memory, new Directory(records), key);
  return STEPS.flatMap((step) => {
    const asked =
      step === 'create'
        ? externals.filter((external) => context.people(external).length === 0).map((external) => context.about(external))
        : [context];
    const found = new Map<string, NearMiss>();
    for (const item of asked) {
      for (const { rule, missing } of rulebook.steps[step].nearly(item))
        found.set(rule.id, { step, rule: rule.id, name: rule.name, missing });
    }
    return [...found.values()];
  });
}
