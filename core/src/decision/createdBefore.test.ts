import { describe, expect, test } from '@jest/globals';
import type { PersonRecord } from '../records/directory';
import type { Rulebook } from '../rulebook/schema';
import { RULES } from '../rulebook/schema';
import { rule } from '../testing/ruleWorld';
import { deal, decided, directoryOf, filedUnder, ida, said } from '../testing/decisionWorld';

const EMAIL = 100;

/** Nil, whom the email that is decided again had created. */
const nil = (more: Partial<PersonRecord> = {}): PersonRecord => ({
  kind: 'contact',
  id: 7,
  name: 'Nil Strand',
  accountId: null,
  addresses: ['nil@fish.example'],
  originEmailId: EMAIL,
  ...more,
});
const creates =
  (people: Rulebook['create']['people']) =>
  (rulebook: Rulebook): void =>
    void Object.assign(rulebook.create, { people, after: 'firstEmail', accounts: false });
const fromNil = { from: 'nil@fish.example', names: { 'nil@fish.example': 'Nil Strand' } };

describe('the email that someone was created from, decided again', () => {
  test.each([
    ['with an account', 10],
    ['without an account', null],
  ])('goes under the deal that they have been put on since, as their other emails do: %s', (_, accountId) => {
    const world = { people: [nil({ accountId })], deals: [deal(1, ['contact:7'])], rules: creates('contact') };
    const again = decided(fromNil, world);
    expect(filedUnder(again)).toEqual(expect.arrayContaining([`contact 7 by ${RULES.createPeople}`, `deal 1 by ${RULES.onlyOpenDeal}`]));
    expect(again.creations).toMatchObject([{ kind: 'contact', id: 7 }]);
    const another = decided({ ...fromNil, id: EMAIL + 1 }, world);
    expect(filedUnder(another)).toContain(`deal 1 by ${RULES.onlyOpenDeal}`);
  });

  test('asks between their deals, as their other emails do', () => {
    const again = decided(fromNil, { people: [nil()], deals: [deal(1, ['contact:7']), deal(2, ['contact:7'])], rules: creates('contact') });
    expect(again.questions).toMatchObject([{ about: 'deal', candidates: [{ id: 1 }, { id: 2 }] }]);
  });

  test('leaves the account that it created once in the directory: others at its domain are not asked which', () => {
    const rules = (rulebook: Rulebook): void => {
      creates('contact')(rulebook);
      rulebook.create.accounts = true;
    };
    const lead: PersonRecord = { ...nil(), kind: 'lead', id: 8, name: 'Leo Quay', addresses: ['leo@fish.example'], originEmailId: null };
    const directory = directoryOf({ people: [lead] });
    for (let time = 1; time <= 3; time += 1) decided(fromNil, { rules }, directory);
    const ofLead = decided({ from: 'leo@fish.example', id: EMAIL + 1 }, { rules }, directory);
    expect([ofLead.outcome, ofLead.filings.map((filing) => filing.kind)]).toEqual(['filed', ['lead', 'account']]);
    expect(directory.accountsOfDomain('fish.example')).toHaveLength(1);
  });

  test('counts them beside others who were on record before', () => {
    const deals = [deal(1, ['contact:7', 'contact:1']), deal(2, ['contact:1'])];
    const both = decided(
      { ...fromNil, cc: ['ida@harbour.example'] },
      { people: [ida, nil({ accountId: 12 })], deals, rules: creates('contact') },
    );
    expect(filedUnder(both)).toContain(`deal 1 by ${RULES.onlyOpenDeal}`);
  });

  test.each([
    ['lead', creates('lead')],
    [
      'ask',
      (rulebook: Rulebook): void => {
        creates('contact')(rulebook);
        const when = { fact: 'participant', which: 'this', test: { is: 'domain', value: 'fish.example' } } as const;
        rulebook.create.rules = [rule('create', when, { do: 'ask' })];
      },
    ],
  ])('makes no second record of a contact, and no question, where the rulebook now says: %s', (_, rules) => {
    const again = decided(fromNil, { people: [nil()], rules });
    expect([again.outcome, again.creations, again.questions]).toEqual(['filed', [], []]);
    expect(filedUnder(again)).toEqual([`contact 7 by ${RULES.person}`]);
    expect(said(again)).toContain(
      'nil@fish.example is already in a record: an earlier rulebook created another kind of record from this email.',
    );
  });

  test('keeps a lead a lead where the rulebook now makes contacts', () => {
    const again = decided(fromNil, { people: [nil({ kind: 'lead' })], rules: creates('contact') });
    expect([again.creations, filedUnder(again)]).toEqual([[], [`lead 7 by ${RULES.person}`]]);
  });
});
