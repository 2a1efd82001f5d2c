import { RE2JS, RE2JSSyntaxException } from 're2js';
import { automatonStates } from './patternStates';

/** Tells whether a text matches; in time linear to its length, whatever the pattern. */
export type Matcher = (text: string) => string | null;

const MOST_INSTRUCTIONS = 300;
/** States of its automaton that a pattern may have: so many fit into the engine's table, which makes a text cost one step a character. */
const MOST_STATES = 2000;
/** Patterns of a rulebook are compiled again and again; the last ones are kept. */
const MOST_KEPT = 1000;
const kept = new Map<string, Matcher>();

/** Characters of a text that a pattern looks at; behind these stand quotes of quotes. It bounds what any pattern can cost. */
export const PATTERN_REACH = 20_000;

/**
 * Compiles a pattern in the syntax of RE2 (no back references, no look-around), without regard to case.
 *
 * @returns a function that gives the part that matched, or null
 * @throws {BadPattern} with what is wrong
 */
export function compilePattern(pattern: string): Matcher {
  const known = kept.get(pattern);
  if (known) return known;
  const matcher = compile(pattern);
  const [oldest] = kept.keys();
  if (kept.size >= MOST_KEPT && oldest !== undefined) kept.delete(oldest);
  kept.set(pattern, matcher);
  return matcher;
}

function compile(pattern: string): Matcher {
  try {
    const compiled = RE2JS.compile(pattern, RE2JS.CASE_INSENSITIVE);
    return (whole) => {
      const text = whole.length > PATTERN_REACH ? whole.slice(0, PATTERN_REACH) : whole;
      // Whether it matches is answered by an automaton, some ten times faster than where.
      if (!compiled.test(text)) return null;
      const matcher = compiled.matcher(text);
      return matcher.find() ? matcher.group() : null;
    };
  } catch (error) {
    if (error instanceof RE2JSSyntaxException) throw new BadPattern(`The pattern “${pattern}” cannot be read: ${error.message}.`);
    throw error;
  }
}

/**
 * Refuses a pattern that would cost more than one step for each character of a text. What is in force already goes on all the same.
 *
 * @throws {BadPattern} with what to do
 */
export function demandCheapPattern(pattern: string): void {
  compilePattern(pattern);
  const compiled = RE2JS.compile(pattern, RE2JS.CASE_INSENSITIVE);
  if (compiled.programSize() > MOST_INSTRUCTIONS || automatonStates(compiled, MOST_STATES) > MOST_STATES)
    throw new BadPattern(
      `The pattern “${pattern.slice(0, 60)}” costs too much: it repeats what fits anywhere too often. Use smaller numbers in braces, or several patterns.`,
    );
}

export class BadPattern extends Error {}
