import { compilePattern } from '@fulvet/core';
import { Random } from '@fulvet/demo';

/** Patterns that an automaton finds hard, and a text of 100 kB that is made for them. */
const HARD_PATTERNS = [
  '(o|e).{8}z9',
  '(o|e).{9}z9',
  '[oe].{0,9}z9',
  '.*o.{4}e.{4}z',
  '(\\w{1,4} ){3}9',
  '(?:(?:o|e|x)?){30}9',
  '(x+x+)+y9',
  '\\bo.{0,9}\\b9',
];

export const MOST_PATTERN_MS = 1;

/** Milliseconds that the costliest of them takes, the best of some runs. */
export function costliestPattern(): { pattern: string; ms: number } {
  const random = new Random(3);
  const text = Array.from({ length: 100_000 }, () => random.pick([...'oexyab '])).join('');
  const costs = HARD_PATTERNS.map((pattern) => {
    const matches = compilePattern(pattern);
    const runs = Array.from({ length: 30 }, () => {
      const began = performance.now();
      matches(text);
      return performance.now() - began;
    });
    return { pattern, ms: Math.min(...runs) };
  });
  return costs.reduce((worst, cost) => (cost.ms > worst.ms ? cost : worst));
}
