import { describe, expect, test } from '@jest/globals';
import type { PersonRecord } from '../records/directory';
import type { MailClass } from '../emails/mailClass';
import type { Rulebook } from '../rulebook/schema';
import { RULES } from '../rulebook/schema';
import { DAY, deal, decided, entry, filedUnder, ida, NOW } from '../testing/decisionWorld';
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
