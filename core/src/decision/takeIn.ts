import type { CompiledRulebook } from '../rulebook/compile';
import type { RuleContext } from '../rulebook/ruleContext';
import type { Rulebook } from '../rulebook/schema';
import { RULES } from '../rulebook/schema';
import { ruleEvidence } from './ruleEvidence';
import type { ConversationMemory } from '../facts/types';
import type { StepEntry } from './types';

/**
 * The step that says whether an email is taken in or left to its owner.
 *
 * @param known addresses of the external participants that are on record as contact or lead
 */
export function takeIn(rulebook: CompiledRulebook, context: RuleContext, known: string[]): StepEntry {
  const entry = byRulebook(rulebook, context, known);
  const { ownTakeIn } = context.facts;
  // The owner of a mailbox may take in less than the rulebook, never more.
  if (entry.verdict !== 'taken in' || ownTakeIn === 'rules' || (ownTakeIn === 'known' && known.length > 0)) return entry;
  return {
    step: 'takeIn',
    verdict: 'left to its owner',
    rule: RULES.mailboxTakeIn,
    evidence: [...entry.evidence, { fact: 'own scope', scope: ownTakeIn }],
  };
}

function byRulebook(rulebook: CompiledRulebook, context: RuleContext, known: string[]): StepEntry {
  const { memory, externals } = context;
  const spoken = externals.length > 0 ? rulebook.steps.takeIn.first(context) : null;
  if (spoken)
    return {
      step: 'takeIn',
      verdict: spoken.rule.then.do === 'takeIn' ? 'taken in' : 'left to its owner',
      rule: spoken.rule.id,
      evidence: [ruleEvidence(spoken)],
    };
  const { scope } = rulebook.source.takeIn;
  const tracked = isInScope(scope, known, memory) && externals.length > 0;
  return {
    step: 'takeIn',
    verdict: tracked ? 'taken in' : 'left to its owner',
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
