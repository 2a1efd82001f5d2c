import { describe, expect, test } from '@jest/globals';
import { alikeNames, eachGroups, wordsToLookUp } from './each';
import type { EachPerson } from './each';

const person = (address: string, more: Partial<EachPerson> = {}): EachPerson => ({
  address,
  name: '',
  company: '',
  domain: address.slice(address.indexOf('@') + 1),
  record: null,
  accounts: [],
  role: false,
  machine: false,
  keptOut: false,
  ...more,
});
const harbour = { id: 7, name: 'Harbour Oriel' };
const ida = person('ida@harbour.example', { name: 'Ida Brandt', accounts: [harbour] });
const jon = person('jon@pilots.example', { name: 'Jon Ree', accounts: [harbour] });
const kim = person('kim@reef.example', { name: 'Kim Aster', company: 'Reef' });
const lee = person('lee@reef.example', { name: 'Lee Aster', company: 'Reef Line' });
const home = person('mia@post.example', { name: 'Mia Holm', domain: '' });

describe('records that begin one for each', () => {
  test('person by person, whatever else they share; contacts and leads always so', () => {
    expect(eachGroups([ida, jon, kim], 'deal', 'person').map(({ key, name }) => [key, name])).toEqual([
      ['ida@harbour.example', 'Ida Brandt'],
      ['jon@pilots.example', 'Jon Ree'],
      ['kim@reef.example', 'Kim Aster'],
    ]);
    expect(eachGroups([kim, lee], 'contact', 'company')).toHaveLength(2);
  });

  test('company by company: those of one account, of one domain, and each at a public provider', () => {
    const groups = eachGroups([ida, kim, jon, lee, home], 'deal', 'company');
    expect(groups.map(({ name, people, account }) => [name, people.map(({ address }) => address), account?.id])).toEqual([
      ['Harbour Oriel', ['ida@harbour.example', 'jon@pilots.example'], 7],
      ['Reef', ['kim@reef.example', 'lee@reef.example'], undefined],
      ['Mia Holm', ['mia@post.example'], undefined],
    ]);
  });

  test('where several accounts share a domain, none is taken', () => {
    const [group] = eachGroups([person('ola@reef.example', { accounts: [harbour, { id: 8, name: 'Reef South' }] })], 'deal', 'company');
    expect(group).toMatchObject({ key: 'reef.example', account: null });
  });

  test.each([
    [person('a@x.example', { keptOut: true }), 'lead', 'kept out'],
    [person('no-reply@x.example', { machine: true }), 'lead', 'machine'],
    [person('info@x.example', { role: true }), 'contact', 'role'],
    [person('info@x.example', { role: true }), 'account', null],
    [home, 'account', 'public provider'],
    [home, 'deal', null],
    [ida, 'account', null],
  ] as const)('%o to become a %s: %s', (who, kind, unfit) => expect(eachGroups([who], kind, 'person')[0]?.unfit).toBe(unfit));

  test('no one is lost or stands twice, in whatever order they come', () => {
    const everyone = [ida, jon, kim, lee, home];
    for (let turn = 0; turn < everyone.length; turn++) {
      const turned = [...everyone.slice(turn), ...everyone.slice(0, turn)];
      for (const per of ['person', 'company'] as const) {
        const members = eachGroups(turned, 'own', per).flatMap(({ people }) => people.map(({ address }) => address));
        expect(members.sort()).toEqual(everyone.map(({ address }) => address).sort());
      }
    }
  });
});

describe('records of almost the same name', () => {
  test('are found in spite of order, marks and one slip; others are not', () => {
    const named = ['Brandt, Ida', 'Ida Brant', 'Ida Brink', 'Oda Holm'].map((name, id) => ({ id, name }));
    expect(alikeNames('Ida Brandt', named).map(({ name }) => name)).toEqual(['Brandt, Ida', 'Ida Brant']);
  });

  test.each([
    ['Ida Brandt', ['Brandt', 'Ida']],
    ['Åse Ø', ['Åse']],
    ['J. B.', []],
    ['', []],
  ])('%p is looked up by %p', (name, words) => expect(wordsToLookUp(name)).toEqual(words));
});
