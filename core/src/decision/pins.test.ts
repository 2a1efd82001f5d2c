import { describe, expect, test } from '@jest/globals';
import type { Rulebook } from '../rulebook/schema';
import { RULES } from '../rulebook/schema';
import { PLAIN_DEAL } from './plainFacts';
import { DAY, decided, NOW, rule } from '../testing/ruleWorld';
import { docketSentences } from './docketSentences';
import type { Decision } from './types';
import type { Pin } from '../facts/types';

let serial = 0;
const pin = (does: Pin['does'], kind: Pin['kind'], recordId: number | null, more: Partial<Pin> = {}): Pin => ({
  id: (serial += 1),
  does,
  kind,
  recordId,
  recordName: recordId === null ? '' : `No. ${recordId}`,
  reach: 'email',
  by: 'Nadia',
  own: true,
  at: NOW,
  ...more,
});
const filedUnder = (decision: Decision): string[] => decision.filings.map((filing) => `${filing.kind}:${filing.id}`).sort();
const deal = (id: number) => ({ ...PLAIN_DEAL, id, name: `Deal ${id}`, people: ['contact:1'] });
const asIs = (): void => undefined;

describe('a pin', () => {
  test('files an email under a record beside what the rules say', () => {
    const decision = decided({ pins: [pin('file', 'account', 77)] }, asIs);
    expect(filedUnder(decision)).toEqual(['account:10', 'account:77', 'contact:1']);
    expect(decision.filings.find((filing) => filing.id === 77)?.rule).toBe(RULES.pin);
  });

  test('makes one record the principal: of two the one that was said last, the other stays', () => {
    const pins = [pin('principal', 'account', 77, { reach: 'onward' }), pin('principal', 'deal', 5, { at: NOW + 1, reach: 'onward' })];
    const rules = (which: Pin[]) => decided({ pins: which }, asIs).filings.map(({ kind, id, rule: by }) => `${kind}:${id} ${by}`);
    expect(rules(pins)).toEqual(expect.arrayContaining([`account:77 ${RULES.pinOfConversation}`, `deal:5 ${RULES.principal}`]));
    // Taken off, it is no principal record any more; filed again, it is one like the others.
    expect(rules([...pins, pin('takeOff', 'deal', 5, { at: NOW + 2 })]).join()).not.toContain(RULES.principal);
    expect(rules([...pins, pin('file', 'deal', 5, { at: NOW + 2 })])).toContain(`deal:5 ${RULES.pin}`);
  });

  test('takes an email off a record that the rules would file it under, and leaves the others', () => {
    expect(filedUnder(decided({ pins: [pin('takeOff', 'account', 10)] }, asIs))).toEqual(['contact:1']);
  });

  test('takes an email off everything: it is unfiled, and creates no one', () => {
    const decision = decided({ from: 'new@unknown.example', pins: [pin('takeOff', null, null)] }, (book: Rulebook) => {
      book.create = { ...book.create, people: 'contact', after: 'firstEmail' };
    });
    expect(decision).toMatchObject({ outcome: 'unfiled', filings: [], creations: [], questions: [], visibility: 'owner' });
  });

  test('that files it after everything was taken off stands alone', () => {
    const pins = [pin('takeOff', null, null), pin('file', 'account', 77, { at: NOW + 1 })];
    expect(filedUnder(decided({ pins }, asIs))).toEqual(['account:77']);
  });

  test('settles the deal: none is looked for beside the one that is named', () => {
    const waiting = decided({}, asIs, [deal(1), deal(2)]);
    expect(waiting.outcome).toBe('waiting');
    const answered = decided({ pins: [pin('file', 'deal', 2)] }, asIs, [deal(1), deal(2)]);
    expect(answered.outcome).toBe('filed');
    expect(filedUnder(answered)).toEqual(['account:10', 'contact:1', 'deal:2']);
    const none = decided({ pins: [pin('takeOff', 'deal', null)] }, asIs, [deal(1), deal(2)]);
    expect(none).toMatchObject({ outcome: 'filed', questions: [] });
    expect(filedUnder(none)).toEqual(['account:10', 'contact:1']);
  });

  test('that takes a deal off does not let the email hop to the next deal', () => {
    expect(filedUnder(decided({ pins: [pin('takeOff', 'deal', 1)] }, asIs, [deal(1), deal(2)]))).toEqual(['account:10', 'contact:1']);
  });

  test('goes before rules that keep out or leave to the owner', () => {
    const shutOut = (book: Rulebook): void => {
      book.keepOut.rules = [
        rule('keepOut', { fact: 'participant', which: 'sender', test: { is: 'address', value: 'ida@harbour.example' } }, { do: 'keepOut' }),
      ];
      book.takeIn.scope = 'byHand';
    };
    expect(decided({}, shutOut).outcome).toBe('kept out');
    const decision = decided({ pins: [pin('file', 'deal', 5)] }, shutOut, [deal(5)]);
    expect(decision.outcome).toBe('filed');
    expect(filedUnder(decision)).toEqual(['deal:5']);
  });

  test('of someone who uses no mailbox that holds it takes in, lets through and seals nothing', () => {
    const shutOut = (book: Rulebook): void => void (book.takeIn.scope = 'byHand');
    const strange = pin('file', 'deal', 5, { own: false, reach: 'conversation' });
    expect(decided({ pins: [strange] }, shutOut, [deal(5)])).toMatchObject({ outcome: 'unfiled', filings: [], visibility: 'owner' });
    expect(decided({ pins: [pin('seal', null, null, { own: false })] }, asIs).outcome).toBe('filed');
    // Where it comes in by the rules, their word counts like anybody's.
    expect(filedUnder(decided({ pins: [strange] }, asIs, [deal(5), deal(6)]))).toEqual(['account:10', 'contact:1', 'deal:5']);
  });

  test('that settles takes the questions away and leaves the rest', () => {
    const decision = decided({ pins: [pin('settle', null, null)] }, asIs, [deal(1), deal(2)]);
    expect(decision).toMatchObject({ outcome: 'filed', questions: [] });
  });

  test('that seals leaves nothing for anyone but the owners', () => {
    const decision = decided({ pins: [pin('file', 'account', 10), pin('seal', null, null)] }, (book) => (book.share.level = 'everyone'));
    expect(decision).toMatchObject({ outcome: 'sealed', filings: [], creations: [], questions: [], visibility: 'owner' });
    expect(decision.docket[0]).toMatchObject({ step: 'share', rule: RULES.seal });
  });

  test.each([
    ['file', 'takeOff', ['contact:1']],
    ['takeOff', 'file', ['account:10', 'contact:1']],
  ] as const)('said later than another about the same record holds: %s, then %s', (first, second, expected) => {
    // The order of the list is not the order of time.
    const pins = [pin(second, 'account', 10, { at: NOW + DAY }), pin(first, 'account', 10)];
    expect(filedUnder(decided({ pins }, asIs))).toEqual([...expected]);
  });

  test('stands in the docket with who said it, about what, and when', () => {
    const decision = decided({ pins: [pin('file', 'deal', 5, { reach: 'conversation', recordName: 'Outer harbour' })] }, asIs, [deal(5)]);
    const said = docketSentences(decision.docket).flatMap((entry) => entry.because);
    expect(said).toContain('Nadia filed the conversation under the deal Outer harbour on 2026-05-04.');
  });
});
