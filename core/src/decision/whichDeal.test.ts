import { describe, expect, test } from '@jest/globals';
import type { DealRecord, PersonRecord } from '../records/directory';
import type { Rulebook } from '../rulebook/schema';
import { RULES } from '../rulebook/schema';
import { DAY, deal, decided, filedUnder, ida, NOW, reseller, said } from '../testing/decisionWorld';
import { remember } from './memory';
import type { ConversationDeal, ConversationMemory } from '../facts/types';
import { NO_MEMORY } from '../facts/types';

const people = ['contact:1'];

/** A deal of a conversation with Ida. */
const standing = (dealId: number, subject: string | null): ConversationDeal => ({
  dealId,
  subject,
  parties: new Set(['@ida@harbour.example']),
});

describe('the deal', () => {
  test('the only open deal of these people', () => {
    expect(filedUnder(decided({}, { deals: [deal(1, people), deal(2, people, { open: false }), deal(3, ['contact:2'])] }))).toContain(
      `deal 1 by ${RULES.onlyOpenDeal}`,
    );
  });

  test('two open deals wait, filed under person and account meanwhile', () => {
    const decision = decided({}, { deals: [deal(1, people), deal(2, people)] });
    expect([decision.outcome, decision.filings.map((filing) => filing.kind)]).toEqual(['waiting', ['contact', 'account']]);
    expect(decision.questions).toMatchObject([{ about: 'deal', candidates: [{ id: 1 }, { id: 2 }] }]);
  });

  test('of two open deals, that of the colleague who has the email', () => {
    const [tomas, jo] = ['tomas@quillmere.example', 'jo@quillmere.example'];
    const deals = [deal(1, people, { owner: tomas }), deal(2, people, { owner: jo })];
    expect(filedUnder(decided({ users: [tomas] }, { deals }))).toContain(`deal 1 by ${RULES.dealByScore}`);
    expect(decided({ users: [tomas, jo] }, { deals }).outcome).toBe('waiting');
    // Whose the other one is, has to be known.
    expect(decided({ users: [tomas] }, { deals: [deal(1, people, { owner: tomas }), deal(2, people)] }).outcome).toBe('waiting');
    // The subject may speak for the other one.
    const named = [deal(1, people, { owner: tomas, name: 'Gauges' }), deal(2, people, { owner: jo, name: 'Survey buoys' })];
    expect(filedUnder(decided({ users: [tomas], subject: 'Survey buoys' }, { deals: named }))).toContain(`deal 2 by ${RULES.dealByName}`);
    expect(decided({ users: [tomas], subject: 'Survey' }, { deals: named }).outcome).toBe('waiting');
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
    for (const subject of ['Order QH 2002', 'Order qh2002', 'QH_2002', 'QH #2002'])
      expect(filedUnder(decided({ subject }, { deals }))).toContain(`deal 2 by ${RULES.dealByCode}`);
    const alike = [deal(1, people, { code: 'QH-2001' }), deal(2, people, { code: 'QH2001' })];
    expect(filedUnder(decided({ subject: 'QH2001' }, { deals: alike }))).toContain(`deal 2 by ${RULES.dealByCode}`);
    expect(decided({ subject: 'QH 2001' }, { deals: alike }).outcome).toBe('waiting');
  });

  test('a deal that was renamed is known by the names and codes that it had', () => {
    const renamed = deal(1, people, { name: 'Storm gate', formerNames: ['River network'], formerCodes: ['RN-77', 'QH-2002'] });
    const deals = [renamed, deal(2, people, { name: 'Survey buoys' })];
    const byName = decided({ subject: 'River network: pegs' }, { deals });
    expect(filedUnder(byName)).toContain(`deal 1 by ${RULES.dealByName}`);
    const byCode = decided({ subject: 'Order rn-77' }, { deals });
    expect(filedUnder(byCode)).toContain(`deal 1 by ${RULES.dealByCode}`);
    expect(said(byCode)).toContain('RN-77');
    // A code that went to another deal is that deal's now.
    expect(filedUnder(decided({ subject: 'Order QH-2002' }, { deals }))).toContain(`deal 2 by ${RULES.dealByCode}`);
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

  test('no deal takes mail from long before it was opened, and the docket says so', () => {
    const young = [deal(1, people, { openedAt: NOW + 91 * DAY })];
    const decision = decided({}, { deals: young });
    expect(filedUnder(decision)).toEqual([`contact 1 by ${RULES.person}`, `account 10 by ${RULES.accountByPerson}`]);
    expect(said(decision)).toContain('Opened more than 90 days after the email was sent: Deal 1.');
    const longer = (rulebook: Rulebook) => void (rulebook.match.leadDays = 120);
    expect(filedUnder(decided({}, { deals: young, rules: longer }))).toContain(`deal 1 by ${RULES.onlyOpenDeal}`);
    const two = [...young, deal(2, people)];
    expect(filedUnder(decided({}, { deals: two }))).toContain(`deal 2 by ${RULES.onlyOpenDeal}`);
  });

  describe('a new matter, begun by answering an old email', () => {
    const deals = [deal(1, people, { open: false, closedAt: NOW - DAY }), deal(2, people)];
    const memory: ConversationMemory = { ...NO_MEMORY, deals: [standing(1, 'bracket drawings')], filed: true };
    const subject = 'A wave staff (was: Bracket drawings)';

    test('goes by its own evidence where the conversation’s deal is closed', () => {
      const decision = decided({ subject }, { deals, memory });
      expect(filedUnder(decision)).toContain(`deal 2 by ${RULES.onlyOpenDeal}`);
      expect(said(decision)).toContain(
        'The conversation was filed under the deal Deal 1, which was closed before, and the subject is another one now',
      );
      const after = remember(memory, decision, { subject, at: NOW });
      expect(after.deals.at(-1)).toMatchObject({ dealId: 2, subject: 'a wave staff' });
      expect(filedUnder(decided({ subject: `Re: ${subject}` }, { deals, memory: after }))).toContain(
        `deal 2 by ${RULES.dealByConversation}`,
      );
    });

    test.each<[string, string, Partial<DealRecord>, Partial<ConversationMemory>]>([
      ['the subject is the same but for its marks', 'AW: Re: Bracket drawings', {}, {}],
      ['the deal is open', subject, { open: true, closedAt: null }, {}],
      ['the deal was closed later', subject, { closedAt: NOW + DAY }, {}],
      ['the earlier subject is not kept', subject, {}, { deals: [standing(1, null)] }],
      ['the pause was short', subject, { open: true, closedAt: null }, { lastAt: NOW - 59 * DAY }],
      ['the subject names its own deal, too', 'Gauges and survey buoys', { open: true, closedAt: null, name: 'Gauges' }, {}],
      ['the subject has its code, too', 'QH-2001, QH-2002', { open: true, closedAt: null }, {}],
    ])('follows its conversation where %s', (_, said, more, known) => {
      const world = { deals: [{ ...deals[0]!, ...more }, deals[1]!], memory: { ...memory, ...known } };
      expect(filedUnder(decided({ subject: said }, world))).toContain(`deal 1 by ${RULES.dealByConversation}`);
    });
  });

  describe('a conversation of an open deal under another subject', () => {
    const deals = [deal(1, people, { name: 'Tide gauges', activity: [NOW - DAY] }), deal(2, people, { name: 'Survey buoys' })];
    const memory: ConversationMemory = { ...NO_MEMORY, deals: [standing(1, 'bracket drawings')], filed: true, lastAt: NOW - DAY };

    test('is about the deal whose code the subject has', () => {
      const decision = decided({ subject: 'Order QH-2002' }, { deals, memory });
      expect(filedUnder(decision)).toContain(`deal 2 by ${RULES.dealByCode}`);
      expect(said(decision)).toContain('the subject is another one now that names other deals');
    });

    test('is weighed where the subject names another deal in full, or where it had rested', () => {
      expect(filedUnder(decided({ subject: 'Survey buoys' }, { deals, memory }))).toContain(`deal 2 by ${RULES.dealByName}`);
      expect(decided({ subject: 'Survey' }, { deals, memory }).outcome).toBe('filed');
      const rested = decided({ subject: 'Hello again' }, { deals, memory: { ...memory, lastAt: NOW - 60 * DAY } });
      expect(rested.questions).toMatchObject([{ about: 'deal', candidates: [{ id: 1 }, { id: 2 }] }]);
      expect(said(rested)).toContain('had rested for 60 days');
    });

    test('stays with the other matter under that subject, and with its deal under its own', () => {
      const subject = 'Hello again';
      const waiting = decided({ subject }, { deals, memory: { ...memory, lastAt: NOW - 90 * DAY } });
      const after = remember(memory, waiting, { subject, at: NOW });
      expect([...after.otherMatters]).toEqual(['hello again']);
      const again = decided({ subject: `Re: ${subject}` }, { deals, memory: after });
      expect(again.outcome).toBe('waiting');
      expect(said(again)).toContain('turned to another matter under this subject');
      const back = decided({ subject: 'Re: Bracket drawings' }, { deals, memory: after });
      expect(filedUnder(back)).toContain(`deal 1 by ${RULES.dealByConversation}`);
      expect(remember(after, back, { subject: 'Bracket drawings', at: NOW }).otherMatters).toEqual(after.otherMatters);
    });

    test('what is kept out or sealed turns nothing', () => {
      for (const outcome of ['kept out', 'sealed', 'unfiled'])
        expect(
          remember(memory, { filings: [], direction: 'received', outcome, externals: [] }, { subject: 'Other', at: NOW }).otherMatters.size,
        ).toBe(0);
    });
  });

  test('a reseller names a deal by the company that it is with, in full', () => {
    const deals = [deal(1, ['contact:2'], { name: 'Lot 1', accountId: 10 }), deal(2, ['contact:2'], { name: 'Lot 2', accountId: 11 })];
    const holders = { users: ['tomas@quillmere.example'] };
    const owned = deals.map((record) => ({ ...record, owner: 'tomas@quillmere.example' }));
    const from = 'ravi@reseller.example';
    const named = decided({ ...holders, from, subject: 'Crates for Oriel North' }, { deals: owned });
    expect(filedUnder(named)).toContain(`deal 2 by ${RULES.dealByScore}`);
    expect(said(named)).toContain('the subject says “north”, “oriel”');
    expect(decided({ ...holders, from, subject: 'Crates for the north' }, { deals: owned }).outcome).toBe('waiting');
  });

  describe('a deal that only the account leads to', () => {
    const scored = (rulebook: Rulebook) => void (rulebook.match.deal = 'scored');
    const deals = [deal(1, ['contact:77'], { name: 'Survey buoys', owner: 'tomas@quillmere.example' }), deal(2, ['contact:78'])];
    const users = ['tomas@quillmere.example'];

    test('is taken when the subject names it', () => {
      const decision = decided({ users, subject: 'Survey buoy: who signs?' }, { deals, rules: scored });
      expect(filedUnder(decision)).toContain(`deal 1 by ${RULES.dealByName}`);
      expect(said(decision)).toContain('The subject names the deal');
    });

    test('for someone unknown, too, and for someone whom the email creates', () => {
      const email = { users, from: 'new@harbour.example', subject: 'Survey buoys' };
      const create = (rulebook: Rulebook) => {
        scored(rulebook);
        Object.assign(rulebook.create, { people: 'contact', after: 'firstEmail' });
      };
      for (const rules of [scored, create]) expect(filedUnder(decided(email, { deals, rules }))).toContain(`deal 1 by ${RULES.dealByName}`);
    });

    test('is no question when nothing tells it', () => {
      const decision = decided({ users, subject: 'Parking' }, { deals, rules: scored });
      expect([decision.outcome, filedUnder(decision)]).toEqual([
        'filed',
        [`contact 1 by ${RULES.person}`, `account 10 by ${RULES.accountByPerson}`],
      ]);
      const certain = (rulebook: Rulebook) => void (rulebook.match.deal = 'certain');
      expect(decided({ users, subject: 'Survey' }, { deals, rules: certain }).filings.map((filing) => filing.kind)).toEqual([
        'contact',
        'account',
      ]);
    });
  });

  test('a deal that names no one is taken where it is the only one of the account', () => {
    const deals = [deal(1, [])];
    const decision = decided({}, { deals });
    expect(filedUnder(decision)).toContain(`deal 1 by ${RULES.onlyOpenDeal}`);
    expect(said(decision)).toContain('Deal 1 is the only deal of the account that was open at that time, and names no one.');
    expect(decided({}, { deals: [...deals, deal(2, [])] }).filings.map((filing) => filing.kind)).toEqual(['contact', 'account']);
    expect(decided({}, { deals: [deal(1, [], { open: false, closedAt: NOW - DAY })] }).filings.map((filing) => filing.kind)).toEqual([
      'contact',
      'account',
    ]);
  });

  test.each(['certain', 'scored'] as const)('people of three accounts without a deal in common are asked nothing: %s', (how) => {
    const third: PersonRecord = { ...reseller, id: 9, accountId: 11, addresses: ['bo@group.example'] };
    const world = {
      people: [ida, reseller, third],
      deals: [deal(1, ['contact:1']), deal(2, ['contact:2']), deal(3, ['contact:9'])],
      rules: (rulebook: Rulebook) => void (rulebook.match.deal = how),
    };
    expect(decided({ cc: ['ravi@reseller.example', 'bo@group.example'] }, world).outcome).toBe('filed');
    expect(decided({ cc: ['ravi@reseller.example'] }, world).outcome).toBe('waiting');
  });

  test('answers follow their conversation', () => {
    const decision = decided(
      {},
      { deals: [deal(1, people), deal(2, people)], memory: { ...NO_MEMORY, deals: [standing(2, null)], filed: true } },
    );
    expect(filedUnder(decision)).toContain(`deal 2 by ${RULES.dealByConversation}`);
  });

  test('never, where the rulebook says never', () => {
    expect(
      decided({}, { deals: [deal(1, people)], rules: (rulebook) => void (rulebook.match.deal = 'never') }).filings.map(
        (filing) => filing.kind,
      ),
    ).toEqual(['contact', 'account']);
  });
});
