import { describe, expect, test } from '@jest/globals';
import { randomFrom } from '../testing/random';
import { fieldsFor, fieldsIn, fillFields } from './mergeFields';

const values = new Map([
  ['person.firstname', 'Ida'],
  ['person.name', 'Ida Brandt'],
  ['account.name', 'Harbour & Works'],
  ['deal.code', ''],
]);
const escaped = (value: string): string => value.replace(/&/g, '&amp;');

describe('the fields of a text', () => {
  test('are filled, safe for the kind of text, whatever the case and the spaces', () => {
    expect(fillFields('<p>Dear {{ Person.FirstName }} of {{account.name}},</p>', values, escaped)).toEqual({
      text: '<p>Dear Ida of Harbour &amp; Works,</p>',
      empty: [],
    });
  });

  test('take their fallback where they are empty; without it they stay and are named once', () => {
    expect(fillFields('{{deal.code|your project}} {{deal.code}} {{deal.code}} {{nothing.known}}', values)).toEqual({
      text: 'your project {{deal.code}} {{deal.code}} {{nothing.known}}',
      empty: ['deal.code', 'nothing.known'],
    });
    expect(fillFields('Hello{{deal.code|}}.', values)).toEqual({ text: 'Hello.', empty: [] });
  });

  test('are found in their order; braces around anything else are text', () => {
    expect(fieldsIn('{{b.c}} {{a}} {{b.c|x}} {{}} {{1}} {a} {{a b}} {{{{a}}')).toEqual(['b.c', 'a']);
  });

  test('a value with braces or dollar signs is text', () => {
    const odd = new Map([['person.name', '$& {{person.name}} $1']]);
    expect(fillFields('{{person.name}}', odd).text).toBe('$& {{person.name}} $1');
  });
});

describe('a text that was written for someone', () => {
  test('has fields for whole values, the longest first, and never within a word or a tag', () => {
    const text = '<p title="Ida">Dear Ida, is Ida Brandt of Harbour &amp; Works near Idaho?</p>';
    expect(fieldsFor(text, values, escaped)).toBe(
      '<p title="Ida">Dear {{person.firstname}}, is {{person.name}} of {{account.name}} near Idaho?</p>',
    );
  });

  test('comes back as it was when its fields are filled', () => {
    const random = randomFrom(7);
    const words = ['Ida', 'Brandt', 'Ida Brandt', 'Harbour & Works', '.', '+', '(x)', 'Äda', ' ', ',', '<b>', '</b>'];
    for (let round = 0; round < 500; round += 1) {
      const text = Array.from({ length: 30 }, () => escaped(words[Math.floor(random() * words.length)] ?? '')).join('');
      const made = new Map([...values].filter(([, value]) => value !== ''));
      expect(fillFields(fieldsFor(text, made, escaped), made, escaped).text).toBe(text);
    }
  });
});
