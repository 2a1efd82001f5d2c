import { describe, expect, test } from '@jest/globals';
import type { PersonRecord } from '../records/directory';
import type { MailClass } from '../emails/mailClass';
import type { Rulebook } from '../rulebook/schema';
import { RULES } from '../rulebook/schema';
import { DAY, deal, decided, directoryOf, entry, filedUnder, ida, NOW, said } from '../testing/decisionWorld';
import { docketSentences } from './docketSentences';
import type { ConversationMemory } from '../facts/types';
import { NO_MEMORY } from '../facts/types';

describe('direction', () => {
  test.each([
    ['from outside', { from: 'ida@harbour.example' }, 'received'],
    ['from us to outside', { from: 'tomas@quillmere.example', to: ['ida@harbour.example'] }, 'sent'],
    [
      'from us with an outsider in Bcc',
      { from: 'tomas@quillmere.example', to: ['jo@quillmere.example'], bcc: ['ida@harbour.example'] },
      'sent',
    ],
    ['from a teammate’s private address', { from: 'tomas.private@freemail.example', to: ['ida@harbour.example'] }, 'sent'],
    ['among us, a sub-domain too', { from: 'tomas@quillmere.example', to: ['jo@lab.quillmere.example'] }, 'internal'],
  ])('%s', (_, email, expected) => {
    expect(decided(email).direction).toBe(expected);
  });
});

describe('keep out', () => {
  test('internal mail stays out', () => {
    const decision = decided({ from: 'tomas@quillmere.example', to: ['jo@quillmere.example'] });
    expect([decision.outcome, decision.docket[0]?.rule]).toEqual(['kept out', RULES.internal]);
  });

  test.each<MailClass>(['newsletter', 'notice', 'auto-reply', 'bounce'])('a %s stays out by default', (mailClass) => {
    const decision = decided({ mailClass, classProof: { header: 'Precedence', value: 'bulk' } });
    expect([decision.outcome, decision.docket[0]?.rule]).toEqual(['kept out', RULES.machineMail]);
  });

  test('an excluded domain covers its sub-domains and says so', () => {
    const decision = decided(
      { from: 'x@mail.law.example' },
      { rules: (rulebook) => rulebook.keepOut.entries.push(entry('domain', 'law.example')) },
    );
    expect([decision.outcome, decision.docket[0]?.rule]).toEqual(['kept out', 'out-law.example']);
  });

  test('exactly means without sub-domains', () => {
    const rules = (rulebook: Rulebook) => void rulebook.keepOut.entries.push(entry('domain', 'law.example', { exactly: true }));
    expect(decided({ from: 'x@mail.law.example' }, { rules }).outcome).toBe('unfiled');
    expect(decided({ from: 'x@law.example' }, { rules }).outcome).toBe('kept out');
  });

  test('a lawyer in copy does not hide the customer, and is not filed', () => {
    const lawyer: PersonRecord = { ...ida, id: 9, addresses: ['x@law.example'], accountId: null };
    const decision = decided(
      { cc: ['x@law.example'] },
      { people: [ida, lawyer], rules: (rulebook) => rulebook.keepOut.entries.push(entry('domain', 'law.example')) },
    );
    expect(decision.outcome).toBe('filed');
    expect(filedUnder(decision)).toEqual([`contact 1 by ${RULES.person}`, `account 10 by ${RULES.accountByPerson}`]);
    expect(decision.docket[0]?.evidence).toMatchObject([{ fact: 'entry', participant: 'x@law.example' }]);
  });

  test('an entry that keeps the whole email out does so for one participant', () => {
    const decision = decided(
      { cc: ['x@law.example'] },
      { rules: (rulebook) => rulebook.keepOut.entries.push(entry('domain', 'law.example', { effect: 'keepOut' })) },
    );
    expect(decision.outcome).toBe('kept out');
  });

  test('an excluded address leaves others of the domain alone, whatever its tag and case', () => {
    const rules = (rulebook: Rulebook) => void rulebook.keepOut.entries.push(entry('address', 'Ida@Harbour.example'));
    expect(decided({ from: 'ida+x@harbour.example' }, { rules }).outcome).toBe('kept out');
    expect(decided({ from: 'jo@harbour.example' }, { rules }).outcome).toBe('filed');
  });
});

describe('take in', () => {
  const scope = (value: Rulebook['takeIn']['scope']) => (rulebook: Rulebook) => void (rulebook.takeIn.scope = value);
  test.each<[Rulebook['takeIn']['scope'], string, ConversationMemory, string]>([
    ['external', 'new@nobody.example', NO_MEMORY, 'unfiled'],
    ['known', 'ida@harbour.example', NO_MEMORY, 'filed'],
    ['known', 'jo@harbour.example', NO_MEMORY, 'unfiled'],
    ['answers', 'ida@harbour.example', NO_MEMORY, 'unfiled'],
    ['answers', 'ida@harbour.example', { ...NO_MEMORY, filed: true }, 'filed'],
    ['byHand', 'ida@harbour.example', { ...NO_MEMORY, filed: true }, 'unfiled'],
  ])('%s: mail of %s', (value, from, memory, outcome) => {
    expect(decided({ from }, { rules: scope(value), memory }).outcome).toBe(outcome);
  });
});

describe('match', () => {
  test('a stranger at a company’s domain is filed under the account', () => {
    expect(filedUnder(decided({ from: 'jo@mail.oriel.example' }))).toEqual([`account 10 by ${RULES.accountByDomain}`]);
  });

  test('the person’s account goes before the domain’s', () => {
    const moved = { ...ida, accountId: 12 };
    expect(filedUnder(decided({}, { people: [moved] }))).toEqual([
      `contact 1 by ${RULES.person}`,
      `account 12 by ${RULES.accountByPerson}`,
    ]);
  });

  test('someone who changed employer: mail of the time before, and to the address there, stays with the former account', () => {
    const addresses = ['ida@freemail.example', 'ida@harbour.example', 'ida@reseller.example'];
    const moved = { ...ida, accountId: 12, addresses, formerAccounts: [{ accountId: 10, until: NOW }] };
    const accountAt = (at: number, from: string): string[] =>
      filedUnder(decided({ at, from }, { people: [moved] })).filter((value) => value.startsWith('account'));
    expect(accountAt(NOW - DAY, 'ida@freemail.example')).toEqual([`account 10 by ${RULES.accountByPerson}`]);
    expect(accountAt(NOW + DAY, 'ida@freemail.example')).toEqual([`account 12 by ${RULES.accountByPerson}`]);
    expect(accountAt(NOW + DAY, 'ida@harbour.example')).toEqual([`account 10 by ${RULES.accountByPerson}`]);
    expect(accountAt(NOW - DAY, 'ida@reseller.example')).toEqual([`account 12 by ${RULES.accountByPerson}`]);
    const both = { ...ida, accountId: 12, addresses: ['ida@harbour.example', 'ida@reseller.example'] };
    expect(filedUnder(decided({}, { people: [both] }))).toContain(`account 10 by ${RULES.accountByPerson}`);
    expect(filedUnder(decided({ from: 'ida@reseller.example' }, { people: [both] }))).toContain(`account 12 by ${RULES.accountByPerson}`);
    const privately = { ...ida, addresses: ['ida@harbour.example', 'ida@freemail.example'] };
    expect(filedUnder(decided({ from: 'ida@freemail.example' }, { people: [privately] }))).toContain(
      `account 10 by ${RULES.accountByPerson}`,
    );
  });

  test('a domain of several accounts waits, unless a person decides', () => {
    const waiting = decided({ from: 'x@group.example' });
    expect([waiting.outcome, waiting.questions[0]?.candidates.map((candidate) => candidate.id)]).toEqual(['waiting', [11, 13]]);
    const known: PersonRecord = { ...ida, id: 7, accountId: 13, addresses: ['y@group.example'] };
    expect(decided({ from: 'x@group.example', cc: ['y@group.example'] }, { people: [known] }).outcome).toBe('filed');
  });

  test('a public provider stands for no company', () => {
    expect(decided({ from: 'someone@freemail.example' }).outcome).toBe('unfiled');
  });

  test('eight people at several companies: each counts once, in its own way', () => {
    const decision = decided(
      {
        from: 'ida@harbour.example',
        to: ['tomas@quillmere.example', 'ravi@reseller.example', 'x@law.example'],
        cc: ['lea@dredge.example', 'IDA@harbour.example'.toLowerCase(), 'z@nobody.example', 'p@press.example'],
      },
      { rules: (rulebook) => rulebook.keepOut.entries.push(entry('domain', 'law.example'), entry('domain', 'press.example')) },
    );
    expect(filedUnder(decision).map((value) => value.split(' by ')[0])).toEqual([
      'contact 1',
      'contact 2',
      'lead 3',
      'account 10',
      'account 12',
    ]);
    expect(decision.externals).toHaveLength(6);
  });
});

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

describe('share', () => {
  test('its owner only by default, everyone where the rulebook says so, never when under no record', () => {
    const rules = (rulebook: Rulebook) => void (rulebook.share.level = 'everyone');
    expect(decided({}).visibility).toBe('owner');
    expect(decided({}, { rules }).visibility).toBe('everyone');
    expect(decided({ from: 'x@nobody.example' }, { rules }).visibility).toBe('owner');
  });
});

test('the same inputs give the same docket, and words for each step', () => {
  const world = { deals: [deal(1, ['contact:1'])] };
  expect(decided({}, world)).toEqual(decided({}, world));
  const sentences = docketSentences(decided({}, world).docket);
  expect(sentences.map((sentence) => sentence.title)).toEqual(['Keep out', 'Take in', 'Match', 'Create', 'Share']);
  expect(sentences[2]?.because.join(' ')).toContain('Deal 1 is the only deal of these people that was open at that time.');
});
