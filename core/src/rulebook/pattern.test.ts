import { expect, test } from '@jest/globals';
import { Random } from '@fulvet/demo';
import { RE2JS } from 're2js';
import { BadPattern, compilePattern, PATTERN_REACH } from './pattern';

test('a pattern gives the part that matched, without regard to case', () => {
  expect(compilePattern('rma ?\\d+')('About RMA 2041 and rma 7')).toBe('RMA 2041');
  expect(compilePattern('^re:')('a re:')).toBeNull();
});

test('it looks at the beginning of a long text, and not further', () => {
  const at = (place: number): string | null => compilePattern('gauge')(`${' '.repeat(place)}gauge`);
  expect(at(PATTERN_REACH - 5)).toBe('gauge');
  expect(at(PATTERN_REACH)).toBeNull();
});

test('one that repeats too much is refused in words', () => {
  expect(() => compilePattern('(a{50}){50}')).toThrow(BadPattern);
  expect(() => compilePattern('(')).toThrow(/cannot be read/);
});

test('the quick answer is that of the exact engine', () => {
  const random = new Random(11);
  const atoms = ['a', 'b', '.', '\\d', '\\w', '\\b', '^', '$', '[a-c]', '[^b]', '\\s', 'é', 'İ', 'ß', 'K', 'ſ', '(?:ab)', '日', '-'];
  const times = ['', '', '', '*', '+', '?', '{2}', '{0,3}', '*?'];
  let matched = 0;
  for (let round = 0; round < 4000; round += 1) {
    const pattern = Array.from({ length: random.int(1, 5) }, () => random.pick(atoms) + random.pick(times)).join(
      random.pick(['', '', '|']),
    );
    const matches = compilePattern(pattern);
    const exact = RE2JS.compile(pattern, RE2JS.CASE_INSENSITIVE);
    for (let at = 0; at < 3; at += 1) {
      const text = Array.from({ length: random.int(0, 12) }, () => random.pick([...'abcABC 12.-é\nİßKſ日xk_'])).join('');
      const found = exact.matcher(text).find();
      if (found) matched += 1;
      expect({ pattern, text, matches: matches(text) !== null }).toEqual({ pattern, text, matches: found });
    }
  }
  expect(matched).toBeGreaterThan(1000);
});
