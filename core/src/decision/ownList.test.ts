import { expect, test } from '@jest/globals';
import type { Rulebook } from '../rulebook/schema';
import { decided, OUR, rule } from '../testing/ruleWorld';
import { docketSentences } from './docketSentences';
import { NO_MEMORY } from '../facts/types';

const list = (value: string) => ({ mailClass: 'newsletter' as const, classProof: { header: 'List-Id', value } });
const asIs = (): void => undefined;

test('what someone outside writes through a list of ours is no newsletter, and the docket says so', () => {
  const decision = decided(list('Sales <sales.quillmere.example>'), asIs);
  expect(decision).toMatchObject({
    outcome: 'filed',
    filings: [
      { kind: 'contact', id: 1 },
      { kind: 'account', id: 10 },
    ],
  });
  expect(docketSentences(decision.docket)[0]?.because[0]).toBe(
    'It came through our own list sales.quillmere.example, written by an external sender, so it is not a newsletter.',
  );
});

test('whom it is from, becomes a record as by any other email', () => {
  const create = (rulebook: Rulebook): void => void Object.assign(rulebook.create, { people: 'contact', after: 'firstEmail' });
  const mail = { ...list('<sales.quillmere.example>'), from: 'una@ferries.example' };
  expect(decided(mail, create).creations.map((creation) => creation.address ?? creation.domain)).toEqual([
    'ferries.example',
    'una@ferries.example',
  ]);
});

test('rules ask about it as about mail of a person', () => {
  const hold = (rulebook: Rulebook): void =>
    void rulebook.match.rules.push(rule('match', { fact: 'mailClass', in: ['person'] }, { do: 'hold' }));
  expect(decided(list('<sales.quillmere.example>'), hold).outcome).toBe('waiting');
});

test('a shared address of ours at a provider may be such a list, too', () => {
  const shared = (rulebook: Rulebook): void => void rulebook.us.sharedAddresses.push('gauges@groups.example');
  expect(decided(list('<gauges.groups.example>'), shared).outcome).toBe('filed');
  expect(decided(list('<other.groups.example>'), shared).outcome).toBe('kept out');
});

test.each([
  ['a list of theirs', list('<offers.harbour.example>'), {}],
  [
    'no list at all',
    { mailClass: 'newsletter' as const, classProof: { header: 'List-Unsubscribe', value: '<https://quillmere.example>' } },
    {},
  ],
  ['a bounce', { ...list('<sales.quillmere.example>'), mailClass: 'bounce' as const }, {}],
  ['what we send round', list('<news.quillmere.example>'), { from: OUR, to: ['ida@harbour.example'] }],
])('%s is kept out as before', (_, facts, more) => {
  expect(decided({ ...facts, ...more }, asIs).outcome).toBe('kept out');
});

test('a colleague who answers through the list is no newsletter either', () => {
  const mail = { ...list('<sales.quillmere.example>'), from: OUR, to: ['ida@harbour.example'] };
  expect(decided(mail, asIs, [], { ...NO_MEMORY, earlier: 1 }).outcome).toBe('filed');
});
