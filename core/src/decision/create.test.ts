import { expect, test } from '@jest/globals';
import type { ConversationMemory } from '../facts/types';
import { NO_MEMORY } from '../facts/types';
import type { Rulebook } from '../rulebook/schema';
import type { Mail } from '../testing/ruleWorld';
import { decided, OUR } from '../testing/ruleWorld';
import { docketSentences } from './docketSentences';

const creating = (rulebook: Rulebook): void =>
  void Object.assign(rulebook.create, { people: 'contact', after: 'firstEmail', accounts: true });
const made = (mail: Mail, memory: ConversationMemory = NO_MEMORY) => {
  const decision = decided(mail, creating, [], memory);
  return {
    created: decision.creations.map((creation) => creation.address ?? creation.domain),
    questions: decision.questions.map((question) => question.about),
    said: docketSentences(decision.docket)[3]?.because ?? [],
  };
};
test('a domain one letter apart from an account’s creates nothing, and the decision says why', () => {
  const { created, questions, said } = made({ from: OUR, to: ['una@harbuor.example'] });
  expect({ created, questions }).toEqual({ created: [], questions: [] });
  expect(said).toEqual([
    'una@harbuor.example: the domain is one letter apart from a domain of Harbour Oriel, and no one there has answered us. It may be misspelled: no record is created.',
  ]);
  // So may be someone who passes themselves off as the account.
  expect(made({ from: 'una@harbours.example' }).created).toEqual([]);
});

test('where someone there answered us, it is another company', () => {
  expect(made({ from: 'una@harbours.example' }, { ...NO_MEMORY, earlier: 1, weWrote: true }).created).toEqual([
    'harbours.example',
    'una@harbours.example',
  ]);
  expect(made({ from: 'una@ferries.example' }).created).toEqual(['ferries.example', 'una@ferries.example']);
});

test('someone who writes with the same name and local part from another company is asked about, not created', () => {
  const from = (address: string, name: string) => {
    const decision = decided({ from: `${name} <${address}>` }, creating);
    return [decision.creations.length > 0 ? 'created' : '', ...decision.questions.map((question) => question.about)].filter(Boolean);
  };
  expect(from('ida@oriel-marine.example', 'Ida Brandt')).toEqual(['person']);
  expect(from('ida.b@oriel-marine.example', 'Ida Brandt')).toEqual(['created']);
  expect(from('ida@oriel-marine.example', 'Ida Strand')).toEqual(['created']);
});

test('beside someone who seems to have moved with their company, no second account is created', () => {
  const cc = ['Una Strand <una@oriel-marine.example>'];
  const kinds = (from: string) =>
    decided({ from, cc }, creating).creations.map(({ kind, address, domain }) => `${kind} ${address ?? domain}`);
  expect(kinds('Ida Brandt <ida@oriel-marine.example>')).toEqual(['contact una@oriel-marine.example']);
  expect(kinds('Ida Strand <ida@oriel-marine.example>')).toEqual([
    'account oriel-marine.example',
    'contact ida@oriel-marine.example',
    'contact una@oriel-marine.example',
  ]);
});
