import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { isNearDomain, keptKeys, nearKeys } from './nearDomain';

test.each([
  ['harbour-oriel.example', 'harbour-orial.example', true],
  ['harbour-oriel.example', 'harbour-oriell.example', true],
  ['harbour-oriel.example', 'harbour-orel.example', true],
  ['harbour-oriel.example', 'harbour-oreil.example', true],
  ['harbour-oriel.example', 'harbour-oriel.example', false],
  ['harbour-oriel.example', 'harbour-oriel.co.example', false],
  ['harbour-oriel.example', 'harvour-orial.example', false],
  // Short names are one letter apart from many.
  ['reef.example', 'reed.example', false],
])('%s and %s: %s', (first, second, near) => {
  expect(isNearDomain(first, second)).toBe(near);
  expect(isNearDomain(second, first)).toBe(near);
});

test('near domains meet at a key, unless two letters changed places in the very middle', () => {
  const label = fc.stringMatching(/^[a-z]{6,20}$/);
  fc.assert(
    fc.property(
      label,
      fc.nat(),
      fc.constantFrom('insert', 'delete', 'replace'),
      fc.constantFrom('a', 'q', '7'),
      (name, place, how, letter) => {
        const at = place % name.length;
        const rest = name.slice(how === 'insert' ? at : at + 1);
        const other = `${name.slice(0, at)}${how === 'delete' ? '' : letter}${rest}`;
        if (!isNearDomain(`${name}.example`, `${other}.example`)) return;
        const asked = nearKeys(`${other}.example`);
        expect(keptKeys(`${name}.example`).some((key) => asked.includes(key))).toBe(true);
      },
    ),
    { numRuns: 500 },
  );
});
