import { describe, expect, test } from '@jest/globals';
import type { PersonRecord } from '../records/directory';
import type { Rulebook } from '../rulebook/schema';
import { RULES } from '../rulebook/schema';
import { decided, directoryOf, filedUnder, ida, said } from '../testing/decisionWorld';

describe('create', () => {
  const creating =
    (people: 'contact' | 'lead', after: 'weWrote' | 'firstEmail' = 'firstEmail') =>
    (rulebook: Rulebook) =>
      void Object.assign(rulebook.create, { people, after });

  test('no one by default', () => {
    const decision = decided({ from: 'new.person@nobody.example' });
    expect([decision.outcome, decision.creations]).toEqual(['unfiled', []]);
  });

  test('a contact with an account from the domain, named from both', () => {
    const decision = decided({ from: 'new.person@mail.salt-marsh.example' }, { rules: creating('contact') });
    expect(decision.creations).toMatchObject([
      { kind: 'account', name: 'Salt Marsh', domain: 'salt-marsh.example', rule: RULES.createAccounts },
      { kind: 'contact', name: 'New Person', nameConfidence: 0.7, address: 'new.person@mail.salt-marsh.example' },
    ]);
    expect(decision.outcome).toBe('filed');
  });

  test('a lead without an account, its company from the domain', () => {
    expect(decided({ from: 'new.person@salt-marsh.example' }, { rules: creating('lead') }).creations).toMatchObject([
      { kind: 'lead', company: 'Salt Marsh', accountId: null },
    ]);
  });

  test('a person at a public provider gets no account', () => {
    expect(decided({ from: 'new.person@freemail.example' }, { rules: creating('contact') }).creations).toMatchObject([
      { kind: 'contact', accountId: null },
    ]);
  });

  test.each([
    ['a role address', { from: 'invoices@nobody.example' }, 'role address'],
    ['machine mail', { from: 'new.person@nobody.example', mailClass: 'calendar' as const }, 'machine mail'],
  ])('never from %s', (_, email, because) => {
    const decision = decided(email, { rules: creating('contact') });
    expect(decision.creations).toEqual([]);
    expect(decision.docket[3]?.evidence).toMatchObject([{ fact: 'not created', because }]);
  });

  test('no one from an invitation sent round to many', () => {
    const to = Array.from({ length: 4 }, (_, at) => `guest.number${at}@club${at}.example`);
    const few = (mostPeople: number) => (rulebook: Rulebook) => {
      creating('contact')(rulebook);
      rulebook.create.mostPeople = mostPeople;
    };
    const email = { from: 'tomas@quillmere.example', to };
    expect(decided(email, { rules: few(4) }).creations).toHaveLength(8);
    const decision = decided(email, { rules: few(3) });
    expect([decision.outcome, decision.creations]).toEqual(['unfiled', []]);
    expect(said(decision)).toContain('the email has too many external participants to create records');
  });

  test('no one from a colleague’s own address at a provider', () => {
    const home = 'tomas@freemail.example';
    const email = { from: 'ida@harbour.example', cc: [home], names: { [home]: 'Tomas Wendel' } };
    const decision = decided(email, { rules: creating('contact') });
    expect(decision.creations).toEqual([]);
    expect(said(decision)).toContain(`${home} is at a public mail provider, under the name of a colleague.`);
    const elsewhere = 'tomas@nobody.example';
    expect(decided({ cc: [elsewhere], names: { [elsewhere]: 'Tomas Wendel' } }, { rules: creating('contact') }).creations).toHaveLength(2);
  });

  describe('an account without a domain', () => {
    const bo: PersonRecord = { ...ida, id: 5, accountId: 20, addresses: ['bo@quay.example'] };
    const people = [ida, bo];
    const email = { from: 'new.person@mail.quay.example' };

    test('is that of others at the address’s domain who are all with it', () => {
      const decision = decided(email, { people });
      expect(filedUnder(decision)).toEqual([`account 20 by ${RULES.accountByDomain}`]);
      expect(said(decision)).toContain(
        'Every known person at mail.quay.example is with the account Quay Works, which has no domain of its own.',
      );
      const created = decided(email, { people, rules: creating('contact') });
      expect(created.creations).toMatchObject([{ kind: 'contact', accountId: 20 }]);
    });

    test.each<[string, PersonRecord[]]>([
      ['they are with several', [bo, { ...bo, id: 6, accountId: 10, addresses: ['kim@quay.example'] }]],
      ['it has a domain', [{ ...bo, accountId: 10 }]],
      ['it is a public mail provider', [{ ...bo, addresses: ['bo@freemail.example'] }]],
    ])('is not where %s', (_, those) => {
      const from = those[0]?.addresses[0]?.replace('bo@', 'new.person@') ?? '';
      expect(decided({ from }, { people: those }).filings).toEqual([]);
    });
  });

  describe('someone who writes under the name of a person on record', () => {
    const rules = creating('contact');
    const home = 'ida.b@freemail.example';

    test('from a provider is not created, but asked about', () => {
      const decision = decided({ from: home, names: { [home]: 'BRANDT, Ida' } }, { rules });
      expect([decision.outcome, decision.creations]).toEqual(['waiting', []]);
      expect(decision.questions).toEqual([{ about: 'person', kind: 'contact', candidates: [{ id: 1, name: 'Ida Brandt' }], domain: home }]);
      expect(said(decision)).toContain(`${home} writes under the name of Ida Brandt and may be their second address`);
    });

    test('from another address of the company, too', () => {
      const second = 'i.brandt@mail.harbour.example';
      expect(decided({ from: second, names: { [second]: 'Ida Brandt' } }, { rules }).questions).toMatchObject([
        { candidates: [{ id: 1 }] },
      ]);
    });

    test.each<[string, string, string, PersonRecord[]]>([
      ['at another company', 'ida.brandt@dredge.example', 'Ida Brandt', [ida]],
      ['whose name is only guessed', 'ida.brandt@freemail.example', '', [ida]],
      ['with a first name alone', 'ida@freemail.example', 'Ida', [{ ...ida, name: 'Ida' }]],
    ])('%s is someone else', (_, from, name, people) => {
      const decision = decided({ from, names: { [from]: name } }, { rules, people });
      expect(decision.questions).toEqual([]);
      expect(decision.creations.map((creation) => creation.address)).toContain(from);
    });

    test('may be one of a few who have the name', () => {
      const lead: PersonRecord = { ...ida, kind: 'lead', id: 3, accountId: null, addresses: ['ida@dredge.example'] };
      const people = [ida, lead, { ...ida, id: 8, addresses: ['ida2@other.example'] }];
      const decision = decided({ from: home, names: { [home]: 'Ida Brandt' } }, { rules, people });
      expect(decision.questions).toMatchObject([{ about: 'person', kind: 'contact', candidates: [{ id: 1 }, { id: 8 }] }]);
      expect(said(decision)).toContain('under the name of Ida Brandt, which 2 known people have, and may be');
      const atCompany = decided({ from: 'i.brandt@other.example', names: { 'i.brandt@other.example': 'Ida Brandt' } }, { rules, people });
      expect(atCompany.questions).toMatchObject([{ candidates: [{ id: 8 }] }]);
    });

    test('in one email with their own address is asked about, in whatever order', () => {
      const [work, elsewhere] = ['nil@fish.example', 'nil.s@freemail.example'];
      for (const [from, cc] of [
        [work, elsewhere],
        [elsewhere, work],
      ] as const) {
        const decision = decided({ from, cc: [cc], names: { [work]: 'Nil Strand', [elsewhere]: 'Nil Strand' } }, { rules });
        expect(decision.creations.filter((creation) => creation.kind === 'contact').map((creation) => creation.address)).toEqual([work]);
        expect(decision.questions).toMatchObject([{ about: 'person', domain: elsewhere, candidates: [{ name: 'Nil Strand' }] }]);
      }
    });

    test('is asked about where no one would be created, too, only if a rule asks', () => {
      expect(decided({ from: home, names: { [home]: 'Ida Brandt' } }).questions).toEqual([]);
    });
  });

  test('only once we wrote, where the rulebook asks for that', () => {
    const rules = creating('contact', 'weWrote');
    expect(decided({ from: 'new.person@nobody.example' }, { rules }).creations).toEqual([]);
    expect(decided({ from: 'tomas@quillmere.example', to: ['new.person@nobody.example'] }, { rules }).creations).toHaveLength(2);
  });

  test('what the first email creates, the second knows', () => {
    const world = { rules: creating('contact') };
    const directory = directoryOf(world);
    const first = decided({ id: 100, from: 'new.person@nobody.example', cc: ['other.person@nobody.example'] }, world, directory);
    const second = decided({ id: 101, from: 'new.person@nobody.example' }, world, directory);
    expect(first.creations.map((creation) => creation.kind)).toEqual(['account', 'contact', 'contact']);
    expect(second.creations).toEqual([]);
    expect(second.filings.map((filing) => filing.rule)).toEqual([RULES.person, RULES.accountByPerson]);
  });

  test('deciding the creating email again gives the same docket', () => {
    const world = { rules: creating('contact') };
    const directory = directoryOf(world);
    const once = decided({ from: 'new.person@nobody.example' }, world, directory);
    const again = decided({ from: 'new.person@nobody.example' }, world, directory);
    expect(again).toEqual(once);
  });
});
