import type { Rulebook } from '../rulebook/schema';
import { RULES } from '../rulebook/schema';
import type { ConversationMemory, StopEntry } from './types';

/**
 * The stop that says whether an email is tracked or left loose to its owner.
 *
 * @param known addresses of the external participants that are on record as contact or lead
 */
export function takeIn(scope: Rulebook['takeIn']['scope'], known: string[], externals: number, memory: ConversationMemory): StopEntry {
  const tracked = isInScope(scope, known, memory) && externals > 0;
  return {
    stop: 'takeIn',
    verdict: tracked ? 'tracked' : 'left loose',
    rule: RULES.scope,
    evidence: [{ fact: 'scope', scope, known, conversationFiled: memory.filed }],
  };
}

function isInScope(scope: Rulebook['takeIn']['scope'], known: readonly string[], memory: ConversationMemory): boolean {
  switch (scope) {
    case 'external':
      return true;
    case 'known':
      return known.length > 0;
    case 'answers':
      return memory.filed;
    case 'byHand':
      return false;
  }
}
