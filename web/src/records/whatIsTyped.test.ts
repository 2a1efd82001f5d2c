import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { whatIsTyped } from './whatIsTyped';

describe('what is typed to add a record', () => {
  test.each([
    ['kim.aster@reef.example', 'address', 'Kim Aster', 'kim.aster@reef.example'],
    [' KIM@Reef.example ', 'address', 'KIM', 'kim@reef.example'],
    ['Kim Aster <kim@reef.example>', 'address', 'Kim Aster', 'kim@reef.example'],
    ['"Aster, Kim" <kim+tag@reef.example>', 'address', 'Aster, Kim', 'kim+tag@reef.example'],
    ['harbour.example', 'domain', 'Harbour', 'harbour.example'],
    ['https://www.harbour-works.example/contact', 'domain', 'Harbour Works', 'harbour-works.example'],
    ['@mail.harbour.co.example', 'domain', 'Harbour', 'mail.harbour.co.example'],
    ['Harbour Works', 'name', 'Harbour Works', ''],
    ['Dr. Vale', 'name', 'Dr. Vale', ''],
    ['kim@', 'name', 'kim@', ''],
  ])('%s is an %s', (text, is, name, value) => expect(whatIsTyped(text)).toEqual({ is, name, value }));

  test('whatever it is, it has a name where something was typed', () => {
    fc.assert(
      fc.property(fc.string({ minLength: 2 }), (text) => {
        const { is, name, value } = whatIsTyped(text);
        if (text.trim() !== '' && is === 'name') expect(name).toBe(text.trim());
        expect(value.includes('@')).toBe(is === 'address');
      }),
    );
  });
});
