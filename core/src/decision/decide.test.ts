import { describe, expect, test } from '@jest/globals';
import type { AccountRecord, DealRecord, PersonRecord } from '../directory/directory';
import { Directory } from '../directory/directory';
import type { MailClass } from '../message/mailClass';
import { compileRulebook } from '../rulebook/compile';
import type { KeepOutEntry, Rulebook } from '../rulebook/schema';
import { cautiousRulebook, RULES } from '../rulebook/schema';
import { decide } from './decide';
import { docketSentences } from './docketSentences';
import { PLAIN_FACTS } from './plainFacts';
import type { ConversationMemory, Decision, DecisionFacts } from './types';
import { NO_MEMORY } from './types';

const DAY = 86_400_000;
const NOW = Date.UTC(2026, 4, 4);
const ids = () => {
  let last = 0;
  return { next: () => (last -= 1) };
};

const ida: PersonRecord = {
  kind: 'contact',
  id: 1,
  name: 'Ida Brandt',
  accountId: 10,
  addresses: ['ida@harbour.example'],
  originEmailId: null,
};
const reseller: PersonRecord = {
  kind: 'contact',
  id: 2,
  name: 'Ravi Sen',
  accountId: 12,
  addresses: ['ravi@reseller.example'],
  originEmailId: null,
};
const lead: PersonRecord = {
  kind: 'lead',
  id: 3,
  name: 'Lea Ost',
  accountId: null,
  addresses: ['lea@dredge.example'],
  originEmailId: null,
};
const accounts: AccountRecord[] = [
  { id: 10, name: 'Harbour Oriel', domains: ['harbour.example', 'oriel.example'], type: 'customer', owner: null, originEmailId: null },
  { id: 11, name: 'Oriel North', domains: ['group.example'], type: 'customer', owner: null, originEmailId: null },
  { id: 13, name: 'Oriel South', domains: ['group.example'], type: 'customer', owner: null, originEmailId: null },
  { id: 12, name: 'Tidewise Resale', domains: ['reseller.example'], type: 'customer', owner: null, originEmailId: null },
];
const deal = (id: number, people: string[], more: Partial<DealRecord> = {}): DealRecord => ({
  id,
  name: `Deal ${id}`,
  code: `QH-200${id}`,
  accountId: 10,
  open: true,
  closedAt: null,
  openedAt: null,
  stage: 'Quoted',
  amount: null,
  owner: null,
  activity: [],
  people,
  ...more,
});

interface World {
  rules?: (rulebook: Rulebook) => void;
  people?: PersonRecord[];
  deals?: DealRecord[];
  memory?: ConversationMemory;
}

function directoryOf(world: World): Directory {
  return new Directory({ people: world.people ?? [ida, reseller, lead], accounts, deals: world.deals ?? [] });
}

function decided(
  email: Partial<DecisionFacts> & { from?: string; to?: string[]; cc?: string[]; bcc?: string[] },
  world: World = {},
  directory = directoryOf(world),
): Decision {
  const rulebook = cautiousRulebook(['quillmere.example']);
  world.rules?.(rulebook);
  const compiled = compileRulebook(rulebook, {
    teamAddresses: ['tomas.private@freemail.example'],
    publicProviders: new Set(['freemail.example']),
  });
  const participant = (role: 'from' | 'to' | 'cc' | 'bcc') => (address: string) => ({
    role,
    address,
    domain: address.slice(address.indexOf('@') + 1),
    name: '',
  });
  const participants = [
    participant('from')(email.from ?? 'ida@harbour.example'),
    ...(email.to ?? ['tomas@quillmere.example']).map(participant('to')),
    ...(email.cc ?? []).map(participant('cc')),
    ...(email.bcc ?? []).map(participant('bcc')),
  ];
  const { from: _from, to: _to, cc: _cc, bcc: _bcc, ...more } = email;
  const facts: DecisionFacts = { ...PLAIN_FACTS, id: 100, at: NOW, subject: 'Gauge', ...more, participants };
  return decide(facts, compiled, directory, world.memory ?? NO_MEMORY, ids());
}

const filedUnder = (decision: Decision): string[] => decision.filings.map((one) => `${one.kind} ${one.id} by ${one.rule}`);
const entry = (kind: 'domain' | 'address', value: string, more: Partial<KeepOutEntry> = {}): KeepOutEntry => ({
  id: `out-${value}`,
  kind,
  value,
  exactly: false,
  effect: 'disregard',
  note: '',
  addedBy: '',
  addedAt: '',
  ...more,
});

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
  test('mail among ourselves stays out', () => {
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
    expect(decided({ from: 'x@mail.law.example' }, { rules }).outcome).toBe('loose');
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
    ['external', 'new@nobody.example', NO_MEMORY, 'loose'],
    ['known', 'ida@harbour.example', NO_MEMORY, 'filed'],
    ['known', 'jo@harbour.example', NO_MEMORY, 'loose'],
    ['answers', 'ida@harbour.example', NO_MEMORY, 'loose'],
    ['answers', 'ida@harbour.example', { ...NO_MEMORY, dealId: null, filed: true }, 'filed'],
    ['byHand', 'ida@harbour.example', { ...NO_MEMORY, dealId: null, filed: true }, 'loose'],
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

  test('somebody who changed employer: mail of the time before, and to the address there, stays with the former account', () => {
    const addresses = ['ida@freemail.example', 'ida@harbour.example', 'ida@reseller.example'];
    const moved = { ...ida, accountId: 12, addresses, formerAccounts: [{ accountId: 10, until: NOW }] };
    const accountAt = (at: number, from: string): string[] =>
      filedUnder(decided({ at, from }, { people: [moved] })).filter((one) => one.startsWith('account'));
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
    expect([waiting.outcome, waiting.questions[0]?.candidates.map((one) => one.id)]).toEqual(['waiting', [11, 13]]);
    const known: PersonRecord = { ...ida, id: 7, accountId: 13, addresses: ['y@group.example'] };
    expect(decided({ from: 'x@group.example', cc: ['y@group.example'] }, { people: [known] }).outcome).toBe('filed');
  });

  test('a public provider stands for no company', () => {
    expect(decided({ from: 'someone@freemail.example' }).outcome).toBe('loose');
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
    expect(filedUnder(decision).map((one) => one.split(' by ')[0])).toEqual([
      'contact 1',
      'contact 2',
      'lead 3',
      'account 10',
      'account 12',
    ]);
    expect(decision.externals).toHaveLength(6);
  });
});

describe('the deal', () => {
  const people = ['contact:1'];
  test('the only open deal of these people', () => {
    expect(filedUnder(decided({}, { deals: [deal(1, people), deal(2, people, { open: false }), deal(3, ['contact:2'])] }))).toContain(
      `deal 1 by ${RULES.onlyOpenDeal}`,
    );
  });

  test('two open deals wait, filed under person and account meanwhile', () => {
    const decision = decided({}, { deals: [deal(1, people), deal(2, people)] });
    expect([decision.outcome, decision.filings.map((one) => one.kind)]).toEqual(['waiting', ['contact', 'account']]);
    expect(decision.questions).toMatchObject([{ about: 'deal', candidates: [{ id: 1 }, { id: 2 }] }]);
  });

  test('an email from before a deal was closed belongs to that deal’s time', () => {
    const closed = deal(1, people, { open: false, closedAt: NOW });
    expect(filedUnder(decided({ at: NOW - DAY }, { deals: [closed] }))).toContain(`deal 1 by ${RULES.onlyOpenDeal}`);
    expect(filedUnder(decided({ at: NOW + DAY }, { deals: [closed, deal(2, people)] }))).toContain(`deal 2 by ${RULES.onlyOpenDeal}`);
    expect(decided({ at: NOW - DAY }, { deals: [closed, deal(2, people)] }).outcome).toBe('waiting');
  });

  test('a code in the subject settles it, as a word and in any case', () => {
    const deals = [deal(1, people), deal(2, people)];
    expect(filedUnder(decided({ subject: 'Re: [qh-2002] delivery' }, { deals }))).toContain(`deal 2 by ${RULES.dealByCode}`);
    expect(decided({ subject: 'XQH-2002Y' }, { deals }).outcome).toBe('waiting');
  });

  test('a code in the text settles it where the subject has none; several in the text settle nothing, several in the subject are asked about', () => {
    const deals = [deal(1, people), deal(2, people)];
    expect(filedUnder(decided({ codes: ['QH-2002'] }, { deals }))).toContain(`deal 2 by ${RULES.dealByCode}`);
    expect(filedUnder(decided({ subject: 'QH-2001', codes: ['QH-2002'] }, { deals }))).toContain(`deal 1 by ${RULES.dealByCode}`);
    expect(decided({ codes: ['QH-2001', 'QH-2002'] }, { deals }).questions).toMatchObject([{ about: 'deal', candidates: [{}, {}] }]);
    const both = decided({ subject: 'QH-2001 and QH-2003' }, { deals: [...deals, deal(3, [])] });
    expect(both.questions).toMatchObject([{ about: 'deal', candidates: [{ id: 1 }, { id: 3 }] }]);
  });

  test('of the deals of a reseller, the one that the customer in the same email shares', () => {
    const deals = [deal(1, ['contact:1', 'contact:2']), deal(2, ['contact:2']), deal(3, ['contact:2'])];
    expect(filedUnder(decided({ cc: ['ravi@reseller.example'] }, { deals }))).toContain(`deal 1 by ${RULES.onlyOpenDeal}`);
    expect(decided({ from: 'ravi@reseller.example' }, { deals }).questions).toMatchObject([
      { candidates: [{ id: 1 }, { id: 2 }, { id: 3 }] },
    ]);
    const apart = [deal(1, ['contact:1']), deal(2, ['contact:2'])];
    expect(decided({ cc: ['ravi@reseller.example'] }, { deals: apart }).outcome).toBe('waiting');
  });

  test('a deal that was opened after the email does not compete with one that was open then', () => {
    const deals = [deal(1, people, { open: false, closedAt: NOW }), deal(2, people, { openedAt: NOW + DAY })];
    expect(filedUnder(decided({ at: NOW - DAY }, { deals }))).toContain(`deal 1 by ${RULES.onlyOpenDeal}`);
    expect(filedUnder(decided({ at: NOW - DAY }, { deals: deals.slice(1) }))).toContain(`deal 2 by ${RULES.onlyOpenDeal}`);
  });

  test('answers follow their conversation', () => {
    const decision = decided({}, { deals: [deal(1, people), deal(2, people)], memory: { ...NO_MEMORY, dealId: 2, filed: true } });
    expect(filedUnder(decision)).toContain(`deal 2 by ${RULES.dealByConversation}`);
  });

  test('never, where the rulebook says never', () => {
    expect(
      decided({}, { deals: [deal(1, people)], rules: (rulebook) => void (rulebook.match.deal = 'never') }).filings.map((one) => one.kind),
    ).toEqual(['contact', 'account']);
  });
});

describe('create', () => {
  const creating =
    (people: 'contact' | 'lead', after: 'weWrote' | 'firstEmail' = 'firstEmail') =>
    (rulebook: Rulebook) =>
      void Object.assign(rulebook.create, { people, after });

  test('nobody by default', () => {
    const decision = decided({ from: 'new.person@nobody.example' });
    expect([decision.outcome, decision.creations]).toEqual(['loose', []]);
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
    expect(first.creations.map((one) => one.kind)).toEqual(['account', 'contact', 'contact']);
    expect(second.creations).toEqual([]);
    expect(second.filings.map((one) => one.rule)).toEqual([RULES.person, RULES.accountByPerson]);
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

test('the same inputs give the same docket, and words for each stop', () => {
  const world = { deals: [deal(1, ['contact:1'])] };
  expect(decided({}, world)).toEqual(decided({}, world));
  const sentences = docketSentences(decided({}, world).docket);
  expect(sentences.map((one) => one.title)).toEqual(['Keep out', 'Take in', 'Match', 'Create', 'Share']);
  expect(sentences[2]?.because.join(' ')).toContain('Deal 1 is the only deal of these people that was open at that time.');
});
