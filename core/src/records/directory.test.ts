import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { PLAIN_ACCOUNT, PLAIN_DEAL } from '../decision/plainFacts';
import { companyKey, companyKeyOfDomain } from '../person/companyName';
import { codeKey, codeKeyLength } from './codeKey';
import type { AccountRecord, DealRecord, PersonRecord } from './directory';
import { Directory } from './directory';

const account = (id: number, name: string, ...domains: string[]): AccountRecord => ({ ...PLAIN_ACCOUNT, id, name, domains });
const person = (id: number, accountId: number | null, ...addresses: string[]): PersonRecord => ({
  kind: 'contact',
  id,
  name: `Person ${id}`,
  accountId,
  addresses,
  originEmailId: null,
});
const deal = (id: number, code: string | null, more: Partial<DealRecord> = {}): DealRecord => ({
  ...PLAIN_DEAL,
  id,
  name: `Deal ${id}`,
  people: [],
  code,
  ...more,
});
const of = (parts: { people?: PersonRecord[]; accounts?: AccountRecord[]; deals?: DealRecord[] }): Directory =>
  new Directory({ people: [], accounts: [], deals: [], ...parts });

describe('whose a domain is', () => {
  const accounts = [
    account(1, 'Harbour Oriel', 'harbour.example'),
    account(2, 'Oriel Lab', 'lab.harbour.example'),
    account(3, 'North', 'group.example'),
    account(4, 'South', 'group.example'),
  ];
  const names = (domain: string): string[] =>
    of({ accounts })
      .accountsOfDomain(domain)
      .map((record) => record.name);

  test('the nearest domain above it tells, and a shared one tells several', () => {
    expect(names('harbour.example')).toEqual(['Harbour Oriel']);
    expect(names('mail.harbour.example')).toEqual(['Harbour Oriel']);
    expect(names('x.lab.harbour.example')).toEqual(['Oriel Lab']);
    expect(names('a.b.group.example')).toEqual(['North', 'South']);
    expect(names('notharbour.example')).toEqual([]);
    expect(names('example')).toEqual([]);
  });
});

describe('an account without a domain', () => {
  const quay = account(20, 'The Quay Works Ltd.');
  const at = (domain: string, parts: Parameters<typeof of>[0]): [string | undefined, string | undefined] => {
    const found = of(parts).accountWithoutDomain(domain);
    return [found?.account.name, found?.by];
  };

  test('has the domain at which everyone on record is with it', () => {
    const people = [person(1, 20, 'una@quayside.example'), person(2, 20, 'bo@yard.quayside.example')];
    expect(at('quayside.example', { accounts: [quay], people })).toEqual(['The Quay Works Ltd.', 'colleagues']);
    expect(at('office.quayside.example', { accounts: [quay], people })).toEqual(['The Quay Works Ltd.', 'colleagues']);
    const mixed = [...people, person(3, 21, 'lea@quayside.example')];
    expect(at('quayside.example', { accounts: [quay, account(21, 'Other')], people: mixed })).toEqual([undefined, undefined]);
  });

  test('has the domain that has its name, where no one there is on record', () => {
    for (const domain of ['quay-works.example', 'mail.quayworks.example', 'quay-works-ltd.example'])
      expect(at(domain, { accounts: [quay] })).toEqual(['The Quay Works Ltd.', 'name']);
    expect(at('quay-worksites.example', { accounts: [quay] })[0]).toBeUndefined();
    // Someone there is with another company: the name does not outweigh them.
    const people = [person(1, 21, 'x@quay-works.example')];
    expect(at('quay-works.example', { accounts: [quay, account(21, 'Other')], people })).toEqual(['Other', 'colleagues']);
    expect(at('quay-works.example', { accounts: [quay, account(21, 'Other', 'other.example')], people })[0]).toBeUndefined();
  });

  test('is not guessed of a short name, of a name that two have, or where it has a domain', () => {
    expect(at('quay.example', { accounts: [account(20, 'Quay')] })[0]).toBeUndefined();
    expect(at('quay-works.example', { accounts: [quay, account(21, 'Quay Works')] })[0]).toBeUndefined();
    expect(at('quay-works.example', { accounts: [account(20, 'Quay Works', 'other.example')] })[0]).toBeUndefined();
  });

  test('is found by its name however it is written, with or without legal form', () => {
    const word = fc.constantFrom('quay', 'works', 'reef', 'north', 'harbour', 'marine');
    fc.assert(
      fc.property(
        fc.array(word, { minLength: 2, maxLength: 4 }),
        fc.constantFrom('', ' Ltd.', ' GmbH', ' plc'),
        fc.constantFrom('-', ''),
        (words, form, joint) => {
          const name = `${words.map((value) => value[0]!.toUpperCase() + value.slice(1)).join(' ')}${form}`;
          expect(companyKeyOfDomain(`mail.${words.join(joint)}.example`)).toBe(companyKey(name));
        },
      ),
    );
  });
});

describe('which deal a code names', () => {
  test('however it is written, unless that leads to several', () => {
    const deals = of({ deals: [deal(1, 'QH-2041'), deal(2, 'QH-204.1'), deal(3, 'RN/77-a')] });
    expect([deals.dealWithCode('qh-2041')?.id, deals.dealWithCode('QH-204.1')?.id]).toEqual([1, 2]);
    expect(deals.dealWithCode('QH 2041')).toBeUndefined();
    for (const code of ['rn/77-a', 'RN 77A', 'RN77_A']) expect(deals.dealWithCode(code)?.id).toBe(3);
  });

  test('a code that it had before, while no other deal has it now', () => {
    const renamed = deal(1, 'SG-1', { formerCodes: ['QH-2041', 'QH-2042'] });
    const deals = of({ deals: [renamed, deal(2, 'QH-2042')] });
    expect([deals.dealWithCode('QH 2041')?.id, deals.dealWithCode('QH-2042')?.id, deals.dealWithCode('sg1')?.id]).toEqual([1, 2, 1]);
  });

  test('separators and case make no other code', () => {
    fc.assert(
      fc.property(
        fc.array(fc.stringMatching(/^[A-Za-z0-9]{1,4}$/), { minLength: 1, maxLength: 4 }),
        fc.constantFrom('-', '_', '/', '.', '#', ' ', ''),
        (parts, separator) => {
          expect(codeKey(parts.join(separator).toLowerCase())).toBe(parts.join('').toUpperCase());
        },
      ),
    );
  });

  test('the length of a key is known without making it', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), (code) => {
        const length = codeKeyLength(code);
        if (/^[\x20-\x7e]*$/.test(code)) expect(length).toBe(codeKey(code).length);
        else expect(length).toBeNull();
      }),
    );
  });
});

describe('for whom a person acted', () => {
  const accounts = [account(1, 'Old', 'old.example'), account(2, 'New', 'new.example')];
  const mo: PersonRecord = { ...person(1, 2, 'mo@old.example', 'mo@new.example'), formerAccounts: [{ accountId: 1, until: 1000 }] };
  const named = (domain: string, at: number): string | undefined => of({ accounts, people: [mo] }).accountOf(mo, { domain }, at)?.name;

  test('an address at the domain of one of their accounts tells; else it is whom they were with at that time', () => {
    expect([named('old.example', 2000), named('new.example', 500)]).toEqual(['Old', 'New']);
    expect([named('freemail.example', 500), named('freemail.example', 1500)]).toEqual(['Old', 'New']);
  });

  test('nobody’s account is no one’s', () => {
    const free = person(3, null, 'lea@freemail.example');
    expect(of({ people: [free] }).accountOf(free, { domain: 'freemail.example' }, 0)).toBeUndefined();
  });
});

test('emails are counted with an address up to a time', () => {
  const directory = new Directory({ people: [], accounts: [], deals: [], exchanges: new Map([['ida@harbour.example', [10, 20, 30]]]) });
  expect([5, 20, 99].map((until) => directory.emailsWith('ida@harbour.example', until))).toEqual([0, 2, 3]);
  expect(directory.emailsWith('bo@harbour.example', 99)).toBe(0);
});

test('whoever is added is known from then on, by address and by name however it is written', () => {
  const directory = of({ people: [person(1, null, 'ida@harbour.example')] });
  expect(directory.peopleNamed('Jurgen Ebb')).toEqual([]);
  directory.addPerson({ ...person(9, null, 'nine@harbour.example'), name: 'Jürgen Ebb' });
  expect(directory.peopleNamed('ebb, juergen')).toEqual([]);
  expect(directory.peopleNamed('EBB, Jurgen').map((record) => record.id)).toEqual([9]);
  expect(directory.has('contact', 9) && !directory.has('lead', 9)).toBe(true);
});

test('how many emails there are with someone follows what comes in and what goes', () => {
  const directory = new Directory({ people: [], accounts: [], deals: [], exchanges: new Map([['ida@harbour.example', [10, 30]]]) });
  const counts = (): number[] => [9, 10, 20, 30].map((until) => directory.emailsWith('ida@harbour.example', until));
  expect(counts()).toEqual([0, 1, 1, 2]);
  for (let time = 1; time <= 2; time += 1) directory.noteExchange(['ida@harbour.example', 'lea@dredge.example'], 20, true);
  expect([counts(), directory.emailsWith('lea@dredge.example', 20)]).toEqual([[0, 1, 2, 3], 1]);
  directory.noteExchange(['ida@harbour.example'], 10, false);
  expect(counts()).toEqual([0, 0, 1, 2]);
});
