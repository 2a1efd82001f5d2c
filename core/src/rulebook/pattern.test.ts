import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { RE2JS } from 're2js';
import { BadPattern, compilePattern, demandCheapPattern, PATTERN_REACH } from './pattern';

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
  for (const pattern of ['(a{50}){50}', '(o|e).{30}z9', '[oe]..............................z', '[oe].{0,60}z', '(?<=a)b'])
    expect(() => demandCheapPattern(pattern)).toThrow(BadPattern);
  for (const read of [compilePattern, demandCheapPattern]) expect(() => read('(')).toThrow(/cannot be read/);
  // One that is in force from before goes on.
  expect(compilePattern('(o|e).{30}z9')('x')).toBeNull();
});

test.each([
  'rma ?\\d+',
  '^\\[ext(ernal)?\\]',
  '\\b(invoice|rechnung|facture)\\s*(no|nr)?\\.?\\s*\\d{4,10}\\b',
  '^no-?reply@',
  'order.{0,5}(number|no)\\W+[a-z]{2}-\\d{4}',
  '(\\w+\\s+){3}unsubscribe',
  '[a-z0-9._-]+@harbour\\.example',
  '\\p{Lu}{3}\\d{6}',
  '(mon|tues|wednes|thurs|fri|satur|sun)day',
  'a sentence that is as long as sentences in mails sometimes are, word by word',
])('what people write is taken: %s', (pattern) => {
  expect(() => demandCheapPattern(pattern)).not.toThrow();
});

const ATOMS = ['a', 'b', '.', '\\d', '\\w', '\\b', '^', '$', '[a-c]', '[^b]', '\\s', 'é', 'İ', 'ß', 'K', 'ſ', '(?:ab)', '日', '-'];
const TIMES = ['', '', '', '*', '+', '?', '{2}', '{0,3}', '*?'];

test('the quick answer is that of the exact engine', () => {
  const part = fc.tuple(fc.constantFrom(...ATOMS), fc.constantFrom(...TIMES)).map((pieces) => pieces.join(''));
  const patterns = fc
    .tuple(fc.array(part, { minLength: 1, maxLength: 5 }), fc.constantFrom('', '', '|'))
    .map(([parts, between]) => parts.join(between));
  const texts = fc.array(fc.constantFrom(...'abcABC 12.-é\nİßKſ日xk_'), { maxLength: 12 }).map((letters) => letters.join(''));
  fc.assert(
    fc.property(patterns, texts, (pattern, text) => {
      const exact = RE2JS.compile(pattern, RE2JS.CASE_INSENSITIVE).matcher(text).find();
      expect(compilePattern(pattern)(text) !== null).toBe(exact);
    }),
    { numRuns: 5000 },
  );
});
