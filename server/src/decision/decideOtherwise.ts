import { directoryOf } from '@fulvet/core';
import type { CompiledRulebook } from '@fulvet/core';
import { decideInOrder } from './decideInOrder';
import type { DecidedEmail } from './decideInOrder';
import type { DecisionInputs } from './inputs/loadInputs';
import type { StoredEmail } from './inputs/loadFacts';

/** What would be decided if other rulebooks held; nothing is stored, and the inputs stay as they are. */
export function decideOtherwise(inputs: DecisionInputs, rulebookFor: (email: StoredEmail) => CompiledRulebook): DecidedEmail[] {
  let lastId = 0;
  return decideInOrder(inputs.emails, rulebookFor, directoryOf(inputs.records), new Map(inputs.memories), { next: () => (lastId -= 1) });
}
