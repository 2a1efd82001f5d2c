import { RE2JS, RE2JSSyntaxException } from 're2js';

/** Tells whether a text matches; in time linear to its length, whatever the pattern. */
export type Matcher = (text: string) => string | null;

/** Instructions of a compiled pattern; each may be tried once for every character of a text. */
const MOST_INSTRUCTIONS = 100;

/** Characters of a text that a pattern looks at; behind these stand quotes of quotes. It bounds what any pattern can cost. */
export const PATTERN_REACH = 20_000;

/**
 * Compiles a pattern in the syntax of RE2 (no back references, no look-around), without regard to case.
 *
 * @returns a function that gives the part that matched, or null
 * @throws {BadPattern} with what is wrong
 */
export function compilePattern(pattern: string): Matcher {
  try {
    const compiled = RE2JS.compile(pattern, RE2JS.CASE_INSENSITIVE);
    if (compiled.programSize() > MOST_INSTRUCTIONS)
      throw new BadPattern(
        `The pattern “${pattern.slice(0, 60)}” is too large: it repeats too much. Use smaller numbers in braces, or several patterns.`,
      );
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

export class BadPattern extends Error {}
