import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { ConversationMemory, Pin } from '../facts/types';
import { NO_MEMORY } from '../facts/types';
import type { OwnRecord } from '../records/directory';
import type { Rulebook } from '../rulebook/schema';
import { RULES } from '../rulebook/schema';
import { DAY, decided, ida, NOW, ownRecord, reseller, said } from '../testing/decisionWorld';
import type { Decision } from './types';

const people = ['contact:1'];
const cases = (decision: Decision): string[] =>
  decision.filings.filter(({ kind }) => kind === 'own').map(({ id, rule }) => `${id} by ${rule}`);
const found =
  (how: Rulebook['match']['own'][string]) =>
  (rulebook: Rulebook): void => {
    rulebook.match.own = { case: how };
  };
const standing = (...ids: number[]): ConversationMemory => ({ ...NO_MEMORY, filed: true, records: new Set(ids.map((id) => `own:${id}`)) });

describe('a record of an own kind', () => {
  test.each(['Re: [CASE-12] Cracked housing', 'case-12', 'About CASE12, again', 'AW: #CASE-12', 'Cracked housing (CASE‑12)'])(
    'is found by its number: %s',
    (subject) => {
      const own = [ownRecord(1, people), ownRecord(12, ['contact:2']), ownRecord(2, people)];
      const decision = decided({ subject, from: 'someone@elsewhere.example' }, { own });
      expect(cases(decision)).toEqual([`12 by ${RULES.ownByCode}`]);
      expect(said(decision)).toContain('The subject names CASE-12, the number of the case CASE-12 Cracked housing.');
    },
  );

  test.each(['CASE-123', 'CASE-12-3', 'SHOWCASE-12', 'Just in case 12 gauges are missing', 'was: nothing', '(was: CASE-12)'])(
    'is not found where the subject names something else: %s',
    (subject) => expect(cases(decided({ subject, from: 'someone@elsewhere.example' }, { own: [ownRecord(12, people)] }))).toEqual([]),
  );

  test('is named with a blank by those whose record it is', () => {
    expect(cases(decided({ subject: 'Case 12: cracked again' }, { own: [ownRecord(12, people)] }))).toEqual([`12 by ${RULES.ownByCode}`]);
  });

  test('is found in what the sender wrote where it is theirs', () => {
    const own = [ownRecord(1, people), ownRecord(2, ['contact:2'])];
    expect(cases(decided({ codes: ['CASE-1', 'CASE-2'] }, { own }))).toEqual([`1 by ${RULES.ownByCode}`]);
  });

  test('several numbers in a subject name several records', () => {
    const own = [ownRecord(1, people), ownRecord(2, people)];
    expect(cases(decided({ subject: 'CASE-1 and CASE-2' }, { own }))).toHaveLength(2);
  });

  test('answers of its people and of its account follow the conversation, those of others do not', () => {
    const own = [ownRecord(1, people), ownRecord(2, [], { accountId: 10 }), ownRecord(3, ['contact:2'])];
    const decision = decided({}, { own, memory: standing(1, 2, 3) });
    expect(cases(decision)).toEqual([`1 by ${RULES.ownByConversation}`, `2 by ${RULES.ownByConversation}`]);
    expect(cases(decided({ from: 'kim@unknown.example' }, { own, memory: standing(1, 2, 3) }))).toEqual([]);
  });

  test('that names no one keeps its conversation', () => {
    expect(cases(decided({ from: 'kim@unknown.example' }, { own: [ownRecord(1, [])], memory: standing(1) }))).toEqual([
      `1 by ${RULES.ownByConversation}`,
    ]);
  });

  test('is found by an address that leads to it, as long as it is open', () => {
    const site = { addresses: ['site7@harbour-build.example'] };
    const own = [ownRecord(1, [], site), ownRecord(2, [], { ...site, open: false, closedAt: NOW - DAY })];
    const decision = decided(
      { from: 'site7@harbour-build.example', subject: 'Hello' },
      { own, rules: (it) => (it.takeIn.scope = 'known') },
    );
    expect(cases(decision)).toEqual([`1 by ${RULES.ownByAddress}`]);
    expect(decision.outcome).toBe('filed');
  });

  test('is not found by its people alone, unless its kind says so', () => {
    const own = [ownRecord(1, people)];
    expect(cases(decided({}, { own }))).toEqual([]);
    expect(cases(decided({}, { own, rules: found('onlyOpen') }))).toEqual([`1 by ${RULES.onlyOpenOwn}`]);
    expect(cases(decided({ subject: 'CASE-1' }, { own, rules: found('never'), memory: standing(1) }))).toEqual([]);
  });

  test('of several open ones none is taken, and no one is asked', () => {
    const own = [ownRecord(1, people), ownRecord(2, people), ownRecord(3, people, { open: false, closedAt: NOW - DAY })];
    const decision = decided({}, { own, rules: found('onlyOpen') });
    expect([cases(decision), decision.outcome, decision.questions]).toEqual([[], 'filed', []]);
    expect(said(decision)).toContain('Several records may be meant, and none is clearly the best');
  });

  test('of several open ones the best is taken where its kind goes by score', () => {
    const tomas = 'tomas@quillmere.example';
    const own = [
      ownRecord(1, people, { name: 'CASE-1 Cracked housing', owner: tomas }),
      ownRecord(2, people, { name: 'CASE-2 Late delivery', owner: 'jo@quillmere.example' }),
    ];
    expect(cases(decided({ subject: 'The late delivery', users: ['jo@quillmere.example'] }, { own, rules: found('scored') }))).toEqual([
      `2 by ${RULES.ownByScore}`,
    ]);
    expect(cases(decided({ subject: 'A question' }, { own, rules: found('scored') }))).toEqual([]);
  });

  test('kinds are told apart: a project is no rival of a case', () => {
    const project = { kind: 'project', noun: 'project', code: 'PROJ-5', name: 'PROJ-5 New quay' };
    const own = [ownRecord(1, people), ownRecord(5, people, project)];
    expect(cases(decided({}, { own, rules: found('onlyOpen') }))).toEqual([`1 by ${RULES.onlyOpenOwn}`]);
  });

  test('one that was opened long after an email is not its only open one', () => {
    const own = [ownRecord(1, people, { openedAt: NOW + 200 * DAY })];
    expect(cases(decided({}, { own, rules: found('onlyOpen') }))).toEqual([]);
  });

  test('a person’s word goes before the rules', () => {
    const pin = { id: 1, recordName: '', reach: 'email', by: 'Jo', own: true, at: NOW } as const;
    const off: Pin = { ...pin, does: 'takeOff', kind: 'own', recordId: 1 };
    const on: Pin = { ...pin, does: 'file', kind: 'own', recordId: 2 };
    const own = [ownRecord(1, people), ownRecord(2, [])];
    expect(cases(decided({ subject: 'CASE-1', pins: [off, on] }, { own }))).toEqual([`2 by ${RULES.pin}`]);
  });

  test('rules file under one, and ask whether someone has one that is open', () => {
    const own = [ownRecord(1, people), ownRecord(2, ['contact:2'], { open: false })];
    const rules = (rulebook: Rulebook): void => {
      const when = { fact: 'record', test: { field: 'ownOpen', kind: 'case', is: true } } as const;
      const then = { do: 'fileUnder', kind: 'own', id: 2, name: 'CASE-2' } as const;
      rulebook.match.rules = [
        { id: 'open-cases', name: 'Open cases', note: '', on: true, appliesTo: { mailboxes: [], users: [] }, when, then },
      ];
    };
    expect(cases(decided({}, { own, rules }))).toEqual(['2 by open-cases']);
    expect(cases(decided({ from: 'ravi@reseller.example' }, { own, rules }))).toEqual([]);
  });
});

/** A number as people write it, and the record that it is of. */
const written = fc.record({
  number: fc.integer({ min: 1, max: 400 }),
  style: fc.constantFrom('[CASE-N]', '(case-N)', 'CASEN', '#CASE-N', 'Case-N:', 'CASE–N'),
  before: fc.constantFrom('', 'Re: ', 'AW: Gauges ', 'About 12 gauges, '),
  after: fc.constantFrom('', ' cracked', ' – 2 of 3', ', urgent'),
});

test('whoever writes, and however, a number leads to the record that has it, and to no other', () => {
  const own: OwnRecord[] = Array.from({ length: 200 }, (_, at) =>
    ownRecord(
      at + 1,
      at % 3 === 0 ? ['contact:1'] : at % 3 === 1 ? ['contact:2'] : [],
      at % 7 === 0 ? { open: false, closedAt: NOW - DAY } : {},
    ),
  );
  fc.assert(
    fc.property(written, fc.constantFrom(ida, reseller), ({ number, style, before, after }, sender) => {
      const subject = `${before}${style.replace('N', String(number))}${after}`;
      const decision = decided({ subject, from: sender.addresses[0] ?? '' }, { own });
      expect([subject, cases(decision)]).toEqual([subject, number <= 200 ? [`${number} by ${RULES.ownByCode}`] : []]);
    }),
    { numRuns: 400 },
  );
});
