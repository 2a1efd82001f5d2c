import { describe, expect, test } from '@jest/globals';
import type { DomainUse, TuningFacts } from './tuningFacts';
import { isOneEditApart } from '../text/oneEditApart';
import { suggestions } from './suggestions';

const domainUse = (domain: string, more: Partial<DomainUse>): DomainUse => ({
  domain,
  emails: 0,
  sent: 0,
  received: 0,
  machine: 0,
  filed: 0,
  waiting: 0,
  unfiled: 0,
  keptOut: 0,
  ...more,
});
const facts = (more: Partial<TuningFacts>): TuningFacts => ({
  domains: [],
  unknown: [],
  byHand: [],
  takenOff: [],
  accounts: [{ id: 10, name: 'Harbour Oriel', domains: ['harbour-oriel.example'] }],
  people: [{ kind: 'contact', id: 1, name: 'Ida Brandt', accountId: 10, addresses: ['ida@harbour-oriel.example'] }],
  answeredElsewhere: [],
  announced: [],
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
    expect(
      suggestions(facts({ takenOff })).map((suggestion) => [suggestion.step, 'then' in suggestion.change && suggestion.change.then]),
    ).toEqual([
      ['match', { do: 'neverDeals' }],
      ['takeIn', { do: 'leaveToOwner' }],
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
    expect(suggestions(facts({ domains }))[0]).toMatchObject({ step: 'keepOut', change: { then: { do: 'ignore' } } });
  });

  test('a domain that looks like an account’s, when only one account’s does', () => {
    const strange = (domain: string) => found({ domains: [domainUse(domain, { emails: 3, received: 3, unfiled: 3 })] });
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
    expect(found({ domains: [domainUse('marsh.example', { emails: 6, sent: 3, received: 3, unfiled: 6 })] })).toEqual([
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

  test('a domain to which we only write, one letter apart from an account’s', () => {
    const strange = (domain: string, more: Partial<DomainUse>) => found({ domains: [domainUse(domain, { emails: 2, ...more })] });
    expect(strange('harbour-oreil.example', { sent: 2 })).toEqual(['misspelled harbour-oreil.example']);
    expect(strange('harbour-orielx.example', { sent: 2 })).toEqual(['misspelled harbour-orielx.example']);
    // Where someone answers, it is someone’s domain.
    expect(strange('harbour-orielx.example', { sent: 1, received: 1, unfiled: 2 })).toEqual(['like-account harbour-orielx.example']);
    expect(strange('harbour-orie.test', { sent: 2 })).toEqual(['like-account harbour-orie.test']);
    const [suggestion] = suggestions(facts({ domains: [domainUse('harbour-oreil.example', { emails: 1, sent: 1 })] }));
    expect(suggestion?.because).toBe(
      'harbour-oreil.example is one letter apart from harbour-oriel.example of Harbour Oriel. 1 email went there, and none came back.',
    );
    expect(suggestion?.change).toMatchObject({ do: 'rule', then: { do: 'fileUnder', kind: 'account', id: 10 } });
  });

  test('a company that writes from a new domain: two of its people do, or it says so', () => {
    const people = ['ida', 'jo'].map((local, at) => ({
      kind: 'contact' as const,
      id: at,
      name: `${local} Brandt`,
      accountId: 10,
      addresses: [`${local}@harbour-oriel.example`],
    }));
    const unknown = (...locals: string[]) =>
      locals.map((local) => ({
        address: `${local}@oriel-marine.example`,
        domain: 'oriel-marine.example',
        name: `Brandt, ${local}`,
        emails: 3,
      }));
    const renamed = ['renamed oriel-marine.example'];
    expect(found({ people, unknown: unknown('ida', 'jo') })).toEqual(renamed);
    expect(found({ people, unknown: unknown('ida') })).toEqual([]);
    const announced = [{ domain: 'oriel-marine.example', accountId: 10, emails: 1 }];
    expect(found({ people, unknown: unknown('ida'), announced })).toEqual(renamed);
    expect(found({ announced })).toEqual(renamed);
    // Of two companies, none is it; an account that has the domain has it.
    expect(found({ announced: [...announced, { ...announced[0]!, accountId: 11 }] })).toEqual([]);
    expect(found({ announced, accounts: [{ id: 10, name: 'Oriel', domains: ['oriel-marine.example'] }] })).toEqual([]);
    const [suggestion] = suggestions(facts({ people, unknown: unknown('ida', 'jo'), announced }));
    expect(suggestion).toMatchObject({
      because:
        '2 people of Harbour Oriel now write from oriel-marine.example, and an email of Harbour Oriel announces oriel-marine.example. It looks like a new domain of the same company.',
      change: { do: 'addDomain', account: { id: 10 }, domain: 'oriel-marine.example' },
    });
  });

  test('an address that names another person in Reply-To each time', () => {
    const form = (emails: number, authors: number) => found({ answeredElsewhere: [{ address: 'site@forms.example', emails, authors }] });
    expect(form(5, 4)).toEqual(['form-address site@forms.example']);
    expect(form(2, 2)).toEqual([]);
    // A desk that answers by one address.
    expect(form(40, 3)).toEqual([]);
  });
});
