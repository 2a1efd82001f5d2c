import { cautiousRulebook, compileRulebook, RULES, rulebookSchema } from '@fulvet/core';
import { expect, test } from '@jest/globals';
import { ruleTextOf } from './ruleTexts';

const EVERYWHERE = { mailboxes: [], users: [] };
const when = { all: [{ fact: 'participant', which: 'any', test: { is: 'domain', value: 'port.example', exactly: false } }] };
const rulebook = rulebookSchema.parse({
  ...cautiousRulebook(['quillmere.example']),
  match: {
    ...cautiousRulebook(['quillmere.example']).match,
    rules: [
      { id: 'named', name: 'Port mail', note: '', on: true, appliesTo: EVERYWHERE, when, then: { do: 'neverDeals' } },
      { id: 'plain', name: '', note: '', on: true, appliesTo: EVERYWHERE, when, then: { do: 'neverDeals' } },
    ],
  },
});

test('a rule is told by its name, else by what it says; what is no rule any longer says so', () => {
  const text = ruleTextOf(compileRulebook(rulebook, { teamAddresses: [], publicProviders: new Set() }));
  expect(text(null)).toBeNull();
  expect(text(RULES.person)).toBe('The person by the address');
  expect(text('named')).toBe('Port mail');
  expect(text('plain')).toMatch(/^When any external participant is at port\.example, .*[^.]$/);
  expect(text('gone')).toBe('A rule that is gone');
});
