import { describe, expect, test } from '@jest/globals';
import type { DomainUse, TuningFacts } from './suggestions';
import { isOneEditApart } from '../person/oneEditApart';
import { suggestions } from './suggestions';

const domainUse = (domain: string, more: Partial<DomainUse>): DomainUse => ({
  domain,
  emails: 0,
  sent: 0,
  received: 0,
  machine: 0,
  filed: 0,
  waiting: 0,
  loose: 0,
  keptOut: 0,
  ...more,
});
const facts = (more: Partial<TuningFacts>): TuningFacts => ({
  domains: [],
  unknown: [],
  byHand: [],
  takenOff: [],
  accounts: [{ id: 10, name: 'Harbour Oriel', domains: ['harbour-oriel.example'] }],
  people: [{ kind: 'contact', id: 1, name: 'Ida Brandt', addresses: ['ida@harbour-oriel.example'] }],
  isPublicProvider: (domain) => domain === 'freemail.example',
  ...more,
});
const found = (more: Partial<TuningFacts>): string[] =>
  suggestions(facts(more)).map((suggestion) => `${suggestion.code} ${suggestion.about}`);

describe('suggestions from past mail', () => {
  test('what people keep taking off, for companies and from the third on', () => {
    const takenOff = [
      { domain: 'dentist.example', kind: null, emails: 3 },
      { domain: 'agency.example', kind: 'deal' as const, emails: 4 },
      { domain: 'few.example', kind: 'deal' as const, emails: 2 },
      { domain: 'freemail.example', kind: null, emails: 9 },
    ];
    expect(found({ takenOff })).toEqual(['taken-off agency.example', 'taken-off dentist.example']);
    expect(suggestions(facts({ takenOff })).map((suggestion) => [suggestion.stop, suggestion.rule.then])).toEqual([
      ['match', { do: 'neverDeals' }],
      ['takeIn', { do: 'leaveLoose' }],
    ]);
  });

  test('a domain from which machines write only, unless it stays out or we write there', () => {
    const domains = [
      domainUse('tickets.example', { emails: 9, received: 9, machine: 9 }),
      domainUse('out.example', { emails: 9, received: 9, machine: 9, keptOut: 9 }),
      domainUse('mixed.example', { emails: 9, received: 9, machine: 8, filed: 9 }),
      domainUse('ours.example', { emails: 9, received: 8, sent: 1, machine: 9, filed: 9 }),
    ];
    expect(found({ domains })).toEqual(['machine-domain tickets.example']);
    expect(suggestions(facts({ domains }))[0]).toMatchObject({ stop: 'keepOut', rule: { then: { do: 'disregard' } } });
  });

  test('a domain that looks like an account’s, when only one account’s does', () => {
    const strange = (domain: string) => found({ domains: [domainUse(domain, { emails: 3, received: 3, loose: 3 })] });
    expect(strange('harbour-oriel.test')).toEqual(['like-account harbour-oriel.test']);
    expect(strange('harbour-oriell.example')).toEqual(['like-account harbour-oriell.example']);
    expect(strange('harbour-oriel-group.example')).toEqual(['like-account harbour-oriel-group.example']);
    expect(strange('harbour.example')).toEqual([]);
    expect(strange('mail.harbour-oriel.example')).toEqual([]);
    const accounts = [10, 11].map((id) => ({ id, name: `Harbour ${id}`, domains: [`harbour-oriel.${id === 10 ? 'example' : 'test'}`] }));
    expect(found({ accounts, domains: [domainUse('harbour-oriel.invalid', { emails: 3 })] })).toEqual([]);
  });

  test('a second address of one person: the same name, from a provider or the same company', () => {
    const unknown = (address: string, name: string) =>
      found({ unknown: [{ address, domain: address.slice(address.indexOf('@') + 1), name, emails: 2 }] });
    expect(unknown('ida.b@freemail.example', 'Brandt, Ida')).toEqual(['second-address ida.b@freemail.example']);
    expect(unknown('brandt@mail.harbour-oriel.example', 'Ida Brandt')).toEqual(['second-address brandt@mail.harbour-oriel.example']);
    expect(unknown('ida@elsewhere.example', 'Ida Brandt')).toEqual([]);
    expect(unknown('ida@freemail.example', 'Ida')).toEqual([]);
  });

  test('companies with which mail goes both ways', () => {
    expect(found({ domains: [domainUse('marsh.example', { emails: 6, sent: 3, received: 3, loose: 6 })] })).toEqual([
      'correspondents marsh.example',
    ]);
    expect(found({ domains: [domainUse('freemail.example', { emails: 6, sent: 3, received: 3 })] })).toEqual([]);
  });

  test('what people kept filing by hand, when it was always the same', () => {
    const filing = (recordId: number) => ({ domain: 'marsh.example', kind: 'deal' as const, recordId, recordName: `Deal ${recordId}` });
    expect(found({ byHand: [filing(1), filing(1), filing(1)] })).toEqual(['filed-by-hand marsh.example']);
    expect(found({ byHand: [filing(1), filing(1)] })).toEqual([]);
    expect(found({ byHand: [filing(1), filing(1), filing(2)] })).toEqual([]);
  });

  test('one letter more, less, or another', () => {
    expect(
      [
        ['gauge', 'gauges'],
        ['gauge', 'gouge'],
        ['gauge', 'gauge'],
        ['gauge', 'gauged2'],
        ['abc', 'xbd'],
      ].map(([first = '', second = '']) => isOneEditApart(first, second)),
    ).toEqual([true, true, false, false, false]);
  });
});
