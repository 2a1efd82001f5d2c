import { expect, test } from '@jest/globals';
import { keepOutEntrySchema, RULES } from '../rulebook/schema';
import type { Rulebook } from '../rulebook/schema';
import { decided, rule } from '../testing/ruleWorld';
import { docketSentences } from './docketSentences';

const asIs = (): void => undefined;

test('whom the owner of the mailbox keeps out, is ignored; with no one left, the email is kept out', () => {
  const decision = decided({ ownKeptOut: ['ida@harbour.example'] }, asIs);
  expect(decision).toMatchObject({ outcome: 'kept out', filings: [], visibility: 'owner' });
  expect(decision.docket[0]).toMatchObject({ step: 'keepOut', rule: RULES.ownKeepOut });
  expect(docketSentences(decision.docket)[0]?.because[0]).toBe(
    'ida@harbour.example is ignored, because the owner of the mailbox keeps them out.',
  );
});

test('a rule that lets an email through does not bring in whom the owner keeps out', () => {
  const letThrough = (rulebook: Rulebook): void =>
    void rulebook.keepOut.rules.push(rule('keepOut', { fact: 'direction', in: ['received'] }, { do: 'letThrough' }));
  expect(decided({ ownKeptOut: ['ida@harbour.example'] }, letThrough)).toMatchObject({ outcome: 'kept out', filings: [] });
  const withLea = decided({ cc: ['lea@dredge.example'], ownKeptOut: ['ida@harbour.example'] }, letThrough);
  expect(withLea.filings.map((filing) => `${filing.kind}:${filing.id}`)).toEqual(['lead:3']);
  expect(decided({}, letThrough).docket[0]).toMatchObject({ verdict: 'passed' });
});

test('someone else outside in the same email keeps it in', () => {
  const decision = decided({ cc: ['lea@dredge.example'], ownKeptOut: ['ida@harbour.example'] }, asIs);
  expect(decision.filings.map((filing) => `${filing.kind}:${filing.id}`)).toEqual(['lead:3']);
});

test('does not bring in an email that the rulebook keeps out for the same participant', () => {
  const entry = (effect: 'keepOut' | 'ignore') => (rulebook: Rulebook) =>
    void (rulebook.keepOut.entries = [keepOutEntrySchema.parse({ id: 'out', kind: 'domain', value: 'dredge.example', effect })]);
  const email = { cc: ['lea@dredge.example'], ownKeptOut: ['lea@dredge.example'] };
  expect(decided(email, entry('keepOut'))).toMatchObject({ outcome: 'kept out', docket: [{ rule: 'out' }] });
  expect(decided(email, entry('ignore'))).toMatchObject({ outcome: 'filed', docket: [{ rule: RULES.ownKeepOut }, {}, {}, {}, {}] });
});
