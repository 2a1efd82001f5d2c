import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { DuplicatePair, Linkable, LinkOptions } from './duplicates';
import { findDuplicates } from './duplicates';
import { nameLikeness } from './nameLikeness';

const options: LinkOptions = { kind: 'person', isPublicProvider: (domain) => domain === 'freemail.example' };
const person = (id: number, name: string, address: string, more: Partial<Linkable> = {}): Linkable => ({
  id,
  name,
  addresses: address ? [address] : [],
  domains: [],
  phones: [],
  accountId: null,
  ...more,
});

function run(records: readonly Linkable[], how = options): DuplicatePair[] {
  const work = findDuplicates(records, how);
  for (;;) {
    const step = work.next();
    if (step.done) return step.value;
  }
}

test.each([
  ['Ida Brandt', 'Brandt, Ida', 1],
  ['João Silva', 'Joao Silva', 1],
  ['Ida Brandt', 'Ida Brand', 0.94],
  ['Ida Brandt', 'Ida Brnadt', 0.94],
  ['I. Brandt', 'Ida Brandt', 0.85],
  ['Ida Brandt', 'Ida Maria Brandt', 0.9],
  ['Ida Brandt', 'Ida Lund', 0],
  ['Ida Brandt', 'Jo Brandt', 0],
  ['Ida', 'Ida Brandt', 0],
  ['I. B.', 'Ida Brandt', 0],
])('%j and %j are alike by %d', (first, second, expected) => {
  expect(nameLikeness(first, second)).toBeCloseTo(expected, 2);
});

describe('two people are proposed as one', () => {
  const ida = person(1, 'Ida Brandt', 'ida.brandt@harbour.example', { accountId: 7, phones: ['+44 20 7946 0018'] });
  const others = Array.from({ length: 300 }, (_, at) =>
    person(1000 + at, `Person${at} Lund${at % 17}`, `p${at}@company${at % 40}.example`),
  );

  test.each([
    ['from work and from a private address', person(2, 'Ida Brandt', 'ida.brandt@freemail.example')],
    ['with the name turned around', person(2, 'Brandt, Ida', 'ib@freemail.example')],
    ['with a slip in the name, at the same company', person(2, 'Ida Brnadt', 'idab@harbour.example', { accountId: 7 })],
    [
      'by an initial, with the same number written otherwise',
      person(2, 'I. Brandt', 'ib@freemail.example', { phones: ['(020) 7946-0018'] }),
    ],
  ])('%s', (_, second) => {
    expect(run([ida, second, ...others]).map((pair) => [pair.one, pair.other])).toEqual([[1, 2]]);
  });

  test.each([
    ['different people of one company', person(2, 'Jo Brandt', 'jo.brandt@harbour.example', { accountId: 7 })],
    [
      'different people with one number, as at a reception',
      person(2, 'Kim Aster', 'kim@harbour.example', { accountId: 7, phones: ['+44 20 7946 0018'] }),
    ],
    ['the same first name', person(2, 'Ida Lund', 'ida.lund@harbour.example', { accountId: 7 })],
  ])('but not %s', (_, second) => {
    expect(run([ida, second, ...others])).toEqual([]);
  });

  test('but not those of a common name at two companies', () => {
    const many = Array.from({ length: 40 }, (_, at) => person(at, 'Jo Lund', `jo${at}x@company${at}.example`, { accountId: at }));
    expect(run([...many, ...others])).toEqual([]);
  });

  test('with the evidence said', () => {
    const [pair] = run([ida, person(2, 'Ida Brandt', 'ida.brandt@freemail.example'), ...others]);
    expect(pair?.evidence.map((evidence) => evidence.fact)).toEqual(['name', 'local part']);
    expect(pair?.likelihood).toBeGreaterThan(0.9);
  });
});

describe('companies', () => {
  const company = (id: number, name: string, domains: string[], more: Partial<Linkable> = {}): Linkable => ({
    id,
    name,
    addresses: [],
    domains,
    phones: [],
    accountId: null,
    ...more,
  });
  const asCompanies: LinkOptions = { ...options, kind: 'company' };
  const others = Array.from({ length: 200 }, (_, at) => company(1000 + at, `Company${at} Works`, [`c${at}.example`]));
  const oriel = company(1, 'Harbour Oriel', ['harbour-oriel.example']);

  test.each([
    ['the same name', company(2, 'Harbour Oriel Ltd', ['oriel-north.example'])],
    ['a similar name and the same domain', company(2, 'Harbor Oriel', ['north.harbour-oriel.example'])],
    ['the same name of the domain under another ending', company(2, 'Harbour Oriel Group', ['harbour-oriel.co'])],
  ])('are proposed as one by %s', (_, second) => {
    expect(run([oriel, second, ...others], asCompanies).map((pair) => [pair.one, pair.other])).toEqual([[1, 2]]);
  });

  test('of one family are two', () => {
    expect(run([oriel, company(2, 'Harbour Oriel', ['oriel-north.example'], { accountId: 1 }), ...others], asCompanies)).toEqual([]);
  });
});

test('the order of the records does not matter', () => {
  const records = [
    person(1, 'Ida Brandt', 'ida.brandt@harbour.example', { accountId: 7 }),
    person(2, 'Brandt, Ida', 'ida.brandt@freemail.example'),
    person(3, 'Jo Lund', 'jo@harbour.example', { accountId: 7 }),
    person(4, 'Jo Lunt', 'jo.lund@harbour.example', { accountId: 7 }),
    person(5, 'Kim Aster', 'kim@reef.example'),
  ];
  const expected = run(records);
  fc.assert(
    fc.property(fc.shuffledSubarray(records, { minLength: records.length }), (shuffled) => expect(run(shuffled)).toEqual(expected)),
  );
  expect(expected.length).toBe(2);
});

test('people who went with their company to a new domain come before namesakes, and one namesake at another company is no pair', () => {
  const at = (id: number, name: string, domain: string, accountId: number): Linkable =>
    person(id, name, `${name.toLowerCase().replace(' ', '.')}@${domain}`, { accountId });
  const moved = ['Ida Brandt', 'Ole Tamm', 'Jo Lund'].flatMap((name, nth) => [
    at(nth * 2 + 1, name, 'harbour-oriel.example', 7),
    at(nth * 2 + 2, name, 'oriel-port.example', 8),
  ]);
  const namesakes = [at(20, 'Kim Aster', 'reef.example', 9), at(21, 'Kim Aster', 'dredge.example', 10)];
  const others = Array.from({ length: 300 }, (_, nth) =>
    at(1000 + nth, `Person${nth} Quist${nth % 17}`, `company${nth % 40}.example`, 100 + (nth % 40)),
  );
  const pairs = run([...moved, ...namesakes, ...others]);
  expect(pairs.map((pair) => [pair.one, pair.other])).toEqual([
    [1, 2],
    [3, 4],
    [5, 6],
  ]);
  expect(pairs[0]?.evidence).toContainEqual({ fact: 'moved together', value: 'harbour-oriel.example oriel-port.example', weight: 5 });
  expect(pairs.flatMap((pair) => pair.evidence.map((item) => item.fact))).not.toContain('other company');
});
