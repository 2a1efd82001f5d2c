import type { Spoken } from '../rulebook/compiledStep';
import type { Evidence } from './types';

const MOST_HITS = 12;

/** What a rule that spoke brings as evidence. */
export function ruleEvidence({ rule, hits }: Spoken<unknown>): Evidence {
  return { fact: 'rule', rule: rule.id, name: rule.name, hits: hits.slice(0, MOST_HITS) };
}
