import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { NO_MEMORY } from '../facts/types';
import type { ConversationMemory } from '../facts/types';
import type { DealRecord } from '../records/directory';
import type { Rulebook } from '../rulebook/schema';
import { RULES } from '../rulebook/schema';
import { DAY, deal, decided, filedUnder, NOW, said } from '../testing/decisionWorld';
import { dealsNamed } from './dealName';
import { matterOf, remember } from './memory';
import { dealsInPairs, wordPairsOf } from './wordPairs';
import type { Decision } from './types';

const IDA = 'ida@harbour.example';
const RAVI = 'ravi@reseller.example';
const US = 'tomas@quillmere.example';
const gauges = deal(1, ['contact:1'], { name: 'Tide gauges' });
const buoys = deal(2, ['contact:1'], { name: 'Survey buoys' });
/** Of the reseller's account, on which Ida is not. */
const masts = deal(3, ['contact:2'], { name: 'Mast renewal', accountId: 12 });

const dealIn = (decision: Decision): string | undefined => filedUnder(decision).find((filing) => filing.startsWith('deal'));
const after = (decision: Decision, subject: string, memory: ConversationMemory = NO_MEMORY): ConversationMemory =>
  remember(memory, decision, { subject, at: NOW });

describe('the deal of a conversation', () => {
  const first = decided({ subject: 'Question' }, { deals: [gauges, masts] });
  const memory = after(first, 'Question');

  test('is taken over by whoever takes part in what is filed there, and by their colleagues', () => {
    const world = { deals: [gauges, masts], memory };
    expect(dealIn(decided({ subject: 'Re: Question' }, world))).toBe(`deal 1 by ${RULES.dealByConversation}`);
    expect(dealIn(decided({ from: 'jo@harbour.example', subject: 'Re: Question' }, world))).toBe(`deal 1 by ${RULES.dealByConversation}`);
  });

  test('is not taken over by another customer, whatever the headers say; nor are their answers', () => {
    const sent = decided({ from: US, to: [RAVI], subject: 'Something else' }, { deals: [gauges, masts], memory });
    expect(dealIn(sent)).toBe(`deal 3 by ${RULES.onlyOpenDeal}`);
    expect(said(sent)).toContain('no one who takes part in this email, nor their account, was in those');
    const both = after(sent, 'Something else', memory);
    expect(dealIn(decided({ from: RAVI, subject: 'Re: Something else' }, { deals: [gauges, masts], memory: both }))).toBe(
      `deal 3 by ${RULES.dealByConversation}`,
    );
    expect(dealIn(decided({ subject: 'Re: Question' }, { deals: [gauges, masts], memory: both }))).toBe(
      `deal 1 by ${RULES.dealByConversation}`,
    );
  });

  test('gives way to a deal of these people that the text names, for the rest of the conversation', () => {
    const deals = [gauges, buoys, masts];
    const begun = after(decided({ subject: 'QH-2001' }, { deals }), 'QH-2001');
    const turned = decided({ subject: 'Re: QH-2001', codes: ['WHAT ABOUT QH-2002'] }, { deals, memory: begun });
    expect(dealIn(turned)).toBe(`deal 2 by ${RULES.dealByCode}`);
    expect(said(turned)).toContain('what the sender wrote names another deal of these people');
    const next = after(turned, 'Re: QH-2001', begun);
    expect(dealIn(decided({ subject: 'Re: QH-2001' }, { deals, memory: next }))).toBe(`deal 2 by ${RULES.dealByConversation}`);
  });

  test('stays where the text mentions a deal of others, or both', () => {
    const deals = [gauges, buoys, masts];
    const begun = after(decided({ subject: 'QH-2001' }, { deals }), 'QH-2001');
    for (const codes of [['LIKE QH-2003'], ['QH-2001 AND QH-2002', 'NOT QH-2002']])
      expect(dealIn(decided({ subject: 'Re: QH-2001', codes }, { deals, memory: begun }))).toBe(`deal 1 by ${RULES.dealByConversation}`);
  });
});

describe('what points to a deal', () => {
  test('in the text, or in the name of a file, has to be a deal of these people or of their account', () => {
    const deals = [gauges, buoys, masts];
    expect(dealIn(decided({ subject: 'Hello', codes: ['SEE QH-2003'] }, { deals }))).toBeUndefined();
    expect(dealIn(decided({ subject: 'Hello', codes: ['SEE QH-2002'] }, { deals }))).toBe(`deal 2 by ${RULES.dealByCode}`);
    expect(dealIn(decided({ subject: 'Hello', attachments: ['QH-2002_rev2.pdf'] }, { deals }))).toBe(`deal 2 by ${RULES.dealByCode}`);
    expect(dealIn(decided({ subject: 'Hello', codes: ['YOUR OFFER 2002'] }, { deals }))).toBe(`deal 2 by ${RULES.dealByCode}`);
    expect(dealIn(decided({ subject: 'Hello QH-2003' }, { deals }))).toBe(`deal 3 by ${RULES.dealByCode}`);
  });

  test('by its name in the subject outweighs the only open deal, closed or to be opened, and the dates are said', () => {
    const won = { ...buoys, open: false, closedAt: NOW - 60 * DAY };
    const closed = decided({ subject: 'Survey buoys: a spare lamp' }, { deals: [gauges, won] });
    expect(dealIn(closed)).toBe(`deal 2 by ${RULES.dealByName}`);
    expect(said(closed)).toContain('It was closed on 2026-03-05, before this email.');
    const soon = decided({ subject: 'Survey buoys, first thoughts' }, { deals: [gauges, { ...buoys, openedAt: NOW + 10 * DAY }] });
    expect(dealIn(soon)).toBe(`deal 2 by ${RULES.dealByName}`);
    expect(said(soon)).toContain('It was opened on 2026-05-14, after this email.');
    const notOnIt = decided({ subject: 'Survey buoys' }, { deals: [gauges, { ...buoys, people: ['contact:9'] }] });
    expect(dealIn(notOnIt)).toBe(`deal 2 by ${RULES.dealByName}`);
  });

  test('what the subject was before points to nothing', () => {
    expect(dealIn(decided({ subject: 'Survey buoys (was: QH-2001)' }, { deals: [gauges, buoys] }))).toBe(`deal 2 by ${RULES.dealByName}`);
    expect(matterOf('Re: Survey buoys (was: Tide gauges)')).toBe('survey buoys');
  });
});

describe('mail to people of several accounts', () => {
  test('is about none of their deals, unless they have it in common or one gets a copy only', () => {
    const deals = [gauges];
    const mailing = decided({ from: US, to: [IDA, RAVI], subject: 'Price list' }, { deals });
    expect([dealIn(mailing), mailing.questions]).toEqual([undefined, []]);
    expect(said(mailing)).toContain('It goes to people of 2 accounts, which have no deal in common.');
    expect(dealIn(decided({ from: US, to: [IDA], cc: [RAVI], subject: 'Dates' }, { deals }))).toBe(`deal 1 by ${RULES.onlyOpenDeal}`);
    expect(dealIn(decided({ cc: [RAVI], subject: 'Dates' }, { deals }))).toBe(`deal 1 by ${RULES.onlyOpenDeal}`);
    const common = [{ ...gauges, people: ['contact:1', 'contact:2'] }];
    expect(dealIn(decided({ from: US, to: [IDA, RAVI], subject: 'Dates' }, { deals: common }))).toBe(`deal 1 by ${RULES.onlyOpenDeal}`);
  });
});

test('an account that a rule files under is none of the people’s', () => {
  const rules = (rulebook: Rulebook): void => {
    const then = (id: number) => ({ do: 'fileUnder' as const, kind: 'account' as const, id });
    rulebook.match.rules = [11, 13].map((id) => ({
      id: `all-${String(id)}`,
      name: '',
      note: '',
      on: true,
      appliesTo: { mailboxes: [], users: [], teams: [] },
      when: { fact: 'direction', in: ['sent'] },
      then: then(id),
    })) as never;
  };
  const sent = decided({ from: US, to: [IDA], subject: 'Dates' }, { deals: [gauges], rules });
  expect(filedUnder(sent)).toEqual(
    expect.arrayContaining(['account 11 by all-11', 'account 13 by all-13', `deal 1 by ${RULES.onlyOpenDeal}`]),
  );
});

describe('a name that a subject spells out', () => {
  const named = (subject: string, ...names: string[]): string[] =>
    dealsNamed(
      subject,
      names.map((name, at) => deal(at + 1, [], { name })),
      () => 'Harbour Oriel',
    ).map((item) => item.deal.name);

  test.each([
    ['Tide gauges: drawings', ['Tide gauges', 'Survey buoys'], ['Tide gauges']],
    ['Drawings, tide gauge', ['Tide gauges'], ['Tide gauges']],
    ['Tide gauges north', ['Tide gauges', 'Tide gauges north'], ['Tide gauges north']],
    ['The tide is high', ['Tide gauges'], []],
    ['Telemetry offer', ['Telemetry', 'Tide gauges'], ['Telemetry']],
    ['Telemetry offer', ['Telemetry', 'Telemetry south'], []],
    ['Service visit', ['Service'], []],
    ['Harbour: tide gauges', ['Harbour Oriel: tide gauges'], ['Harbour Oriel: tide gauges']],
    ['Harbour Oriel', ['Harbour Oriel: tide gauges'], []],
  ])('%j of %j names %j', (subject, names, expected) => expect(named(subject, ...names)).toEqual(expected));
});

test('what a decision says of dates and of “only” is true', () => {
  const time = fc.integer({ min: -400, max: 400 }).map((days) => NOW + days * DAY);
  const record = fc.record({
    openedAt: fc.option(time),
    closedAt: fc.option(time),
    people: fc.subarray(['contact:1', 'contact:2']),
    accountId: fc.constantFrom(10, 12),
    name: fc.constantFrom('Tide gauges', 'Survey buoys', 'Mast renewal', 'Telemetry'),
  });
  const subject = fc.constantFrom('Tide gauges', 'Survey buoys: lamp', 'Hello', 'QH-2001', 'Offer 2002', 'Telemetry', 'Dates');
  fc.assert(
    fc.property(fc.array(record, { maxLength: 4 }), subject, fc.boolean(), (records, line, withRavi) => {
      const deals = records.map((more, at): DealRecord => deal(at + 1, more.people, { ...more, open: more.closedAt === null }));
      const decision = decided({ subject: line, ...(withRavi ? { cc: [RAVI] } : {}) }, { deals });
      const words = said(decision);
      const filed = decision.filings.find((filing) => filing.kind === 'deal');
      const its = deals.find((item) => item.id === filed?.id);
      const wasOpen = (item: DealRecord): boolean =>
        (item.open || (item.closedAt ?? 0) >= NOW) && (item.openedAt === null || item.openedAt <= NOW);
      if (/that was open at that time/.test(words)) expect(its && wasOpen(its)).toBe(true);
      expect(/It was closed on/.test(words)).toBe(its !== undefined && its.closedAt !== null && its.closedAt < NOW);
      if (/It was opened on/.test(words)) expect((its?.openedAt ?? 0) > NOW).toBe(true);
      if (its && its.openedAt !== null && its.openedAt > NOW && (its.closedAt ?? NOW) >= NOW) expect(words).toContain('after this email');
      if (/is the only deal of these people that was open/.test(words))
        expect(
          deals.filter(
            (item) => wasOpen(item) && item.people.some((person) => person === 'contact:1' || (withRavi && person === 'contact:2')),
          ),
        ).toHaveLength(1);
    }),
    { numRuns: 1500 },
  );
});

describe('a deal whose name the sender’s own words spell out', () => {
  const deals = [gauges, buoys, masts];
  const text = (written: string) => ({ subject: 'Re: QH-2001', wordPairs: wordPairsOf(written) });
  const memory = after(decided({ subject: 'QH-2001' }, { deals }), 'QH-2001');
  const turned = `deal 2 by ${RULES.dealByName}`;
  const stays = `deal 1 by ${RULES.dealByConversation}`;

  test('takes the conversation over, where it names no other', () => {
    const decision = decided(text('Thanks. From now on this is about the survey buoys, please.'), { deals, memory });
    expect(dealIn(decision)).toBe(turned);
    expect(said(decision)).toContain('What the sender wrote names the deal Survey buoys.');
    const next = after(decision, 'Re: QH-2001', memory);
    expect(dealIn(decided({ subject: 'Re: QH-2001' }, { deals, memory: next }))).toBe(`deal 2 by ${RULES.dealByConversation}`);
  });

  test.each([
    ['both deals are named', 'The tide gauges before the survey buoys.'],
    ['the words stand apart', 'We survey the pier, and the buoys are blue.'],
    ['it stands in what is quoted', 'Yes.\n\nOn 4 May Jo wrote:\n> About the survey buoys\n'],
    ['it is a deal of others', 'Like the mast renewal.'],
  ])('stays with its deal where %s', (_, written) => {
    expect(dealIn(decided(text(written), { deals, memory }))).toBe(stays);
  });

  test('answers which of several open deals it is about', () => {
    const which = (written: string) => dealIn(decided({ subject: 'Hello', wordPairs: wordPairsOf(written) }, { deals }));
    expect(which('When do the Survey Buoys arrive?')).toBe(turned);
    expect(which('When do they arrive?')).toBeUndefined();
    expect(which('When do the survey buoys and the tide gauges arrive?')).toBeUndefined();
  });
});

test('a name is found wherever it stands among other words, and no name in words that are not it', () => {
  const word = fc.stringMatching(/^[a-z]{4,9}[b-r]$/);
  const name = fc.uniqueArray(word, { minLength: 2, maxLength: 4 });
  fc.assert(
    fc.property(name, fc.array(word, { maxLength: 12 }), fc.array(word, { maxLength: 12 }), (words, before, behind) => {
      const named = { ...gauges, name: words.join(' ') };
      const text = [...before, ...words, ...behind].join(' ');
      expect(dealsInPairs(wordPairsOf(text), [named], () => '').map((item) => item.deal)).toEqual([named]);
      const without = [...before, words[0] ?? '', 'within', words[1] ?? '', ...behind].filter((item, at, all) => all.indexOf(item) === at);
      expect(dealsInPairs(wordPairsOf(without.join(' ')), [named], () => '')).toEqual([]);
    }),
    { numRuns: 200 },
  );
});
