import { describe, expect, test } from '@jest/globals';
import { PLAIN_ACCOUNT, PLAIN_DEAL, PLAIN_FACTS } from '../plainFacts';
import type { ConversationMemory, Pin } from '../../facts/types';
import { NO_MEMORY } from '../../facts/types';
import type { PersonRecord } from '../../records/directory';
import { compileRulebook } from '../../rulebook/compile';
import type { ConditionInput } from '../../rulebook/condition';
import { readRulebook } from '../../rulebook/readRulebook';
import type { Rulebook } from '../../rulebook/schema';
import { cautiousRulebook } from '../../rulebook/schema';
import { alternatives } from './alternatives';
import { nearMisses } from './nearMisses';
import type { Situation } from './situation';
import { decideIn } from './situation';
import { whyNot } from './whyNot';

const NOW = Date.UTC(2026, 4, 4);
const person = (id: number, name: string, address: string, accountId: number | null): PersonRecord => ({
  kind: 'contact',
  id,
  name,
  accountId,
  addresses: [address],
  originEmailId: null,
});
const harbour = { kind: 'account' as const, id: 10, name: 'Harbour Oriel' };
const north = { kind: 'account' as const, id: 11, name: 'Oriel North' };
const weir = { kind: 'deal' as const, id: 21, name: 'Weir' };

function situation(more: {
  from?: string;
  cc?: string[];
  subject?: string;
  rules?: (rulebook: Rulebook) => void;
  memory?: Partial<ConversationMemory>;
  pins?: Pin[];
}): Situation {
  const rulebook = cautiousRulebook(['quillmere.example']);
  more.rules?.(rulebook);
  const read = readRulebook(rulebook);
  if (!read.success) throw read.error;
  const participant = (role: 'from' | 'to' | 'cc', address: string) => ({
    role,
    address,
    domain: address.slice(address.indexOf('@') + 1),
    name: '',
  });
  return {
    facts: {
      ...PLAIN_FACTS,
      id: 100,
      at: NOW,
      subject: more.subject ?? 'Gauge',
      pins: more.pins ?? [],
      participants: [
        participant('from', more.from ?? 'ida@harbour.example'),
        participant('to', 'tomas@quillmere.example'),
        ...(more.cc ?? []).map((value) => participant('cc', value)),
      ],
    },
    rulebook: compileRulebook(read.data, { teamAddresses: [], publicProviders: new Set(['freemail.example']) }),
    records: {
      people: [person(1, 'Ida Brandt', 'ida@harbour.example', 10), person(2, 'Jo Lund', 'jo@harbour.example', 10)],
      accounts: [
        { id: 10, name: 'Harbour Oriel', domains: ['harbour.example'], ...PLAIN_ACCOUNT },
        { id: 11, name: 'Oriel North', domains: ['north.example'], ...PLAIN_ACCOUNT },
      ],
      deals: [
        { ...PLAIN_DEAL, id: 20, name: 'Gauges', people: ['contact:1'] },
        { ...PLAIN_DEAL, id: 21, name: 'Weir', code: 'QH-21', people: ['contact:2'] },
      ],
    },
    memory: { ...NO_MEMORY, ...more.memory },
  };
}

const entry = (value: string) => ({
  id: `out-${value}`,
  kind: 'domain' as const,
  value,
  exactly: false,
  effect: 'ignore' as const,
  note: '',
  addedBy: '',
  addedAt: '',
});
const rule = (name: string, when: ConditionInput, then: object) =>
  ({
    id: `r-${name.toLowerCase().replace(' ', '-')}`,
    name,
    note: '',
    on: true,
    appliesTo: { mailboxes: [], users: [] },
    when,
    then,
  }) as never;
const at = (value: string): ConditionInput => ({ fact: 'participant', which: 'any', test: { is: 'domain', value } });

describe('why an email does not stand under a record', () => {
  test('says that it does, and by what', () => {
    expect(whyNot(situation({}), harbour)).toEqual({
      filed: true,
      reasons: ['Harbour Oriel is the account of ida@harbour.example.'],
      changes: [],
    });
  });

  test('an account: who the people are with, which domains it has, and what would put it there', () => {
    const { filed, reasons, changes } = whyNot(situation({}), north);
    expect(filed).toBe(false);
    expect(reasons).toEqual([
      'None of the people who take part is with Oriel North.',
      'Ida Brandt is with Harbour Oriel.',
      'Its domains are north.example.',
    ]);
    expect(changes).toEqual(['Ida Brandt were with Oriel North']);
  });

  test('a deal: its people, its code, the conversation, and the deal that it went to', () => {
    const { reasons, changes } = whyNot(situation({}), weir);
    expect(reasons[0]).toBe('None of its people takes part. It has 1.');
    expect(reasons.join(' ')).toContain('The subject names the deal Gauges.');
    expect(changes).toContain('the subject named its code, QH-21');
    expect(changes).toContain('its conversation was filed under the deal');
    expect(changes).not.toContain('Ida Brandt were on the deal');
  });

  test('answers follow their conversation', () => {
    const { reasons } = whyNot(situation({ memory: { deals: [{ dealId: 20, subject: null, parties: null }], filed: true } }), weir);
    expect(reasons).toContain('The conversation is filed under another deal, and answers follow it.');
  });

  test('a person who was ignored, and what two changes together would do', () => {
    const rules = (rulebook: Rulebook): void => void rulebook.keepOut.entries.push(entry('harbour.example'));
    const out = whyNot(situation({ rules }), harbour);
    expect(out.reasons[0]).toContain('It was kept out');
    expect(out.changes).toEqual(['harbour.example were not on the kept-out list']);
    expect(whyNot(situation({ rules }), weir).changes).toContain(
      'harbour.example were not on the kept-out list, and the subject named its code, QH-21',
    );
  });

  test('whatever it names as a change, was tried', () => {
    // Nothing puts a provider's mail under an account without a person.
    expect(whyNot(situation({ from: 'who@freemail.example' }), north).changes).toEqual([]);
  });
});

describe('what would have to change for another outcome', () => {
  test('each rule that spoke, taken away by itself', () => {
    const rules = (rulebook: Rulebook): void => {
      rulebook.match.rules.push(rule('No deals', at('harbour.example'), { do: 'neverDeals' }));
    };
    const found = alternatives(situation({ rules }));
    expect(found).toContainEqual(
      expect.objectContaining({ words: 'the rule “No deals” did not apply', outcome: 'filed', won: ['deal:20'], lost: [] }),
    );
    expect(found).toContainEqual(expect.objectContaining({ words: 'filed mail were seen by everyone', visibility: 'everyone' }));
  });

  test('of a stranger: whom it would create', () => {
    const found = alternatives(situation({ from: 'New Person <new.person@marsh.example>'.replace(/.*<|>/g, '') }));
    expect(found).toContainEqual(
      expect.objectContaining({ words: 'unknown people became contacts with their first email', created: ['Marsh', 'New Person'] }),
    );
    expect(found.some((alternative) => alternative.words.includes('once we wrote'))).toBe(false);
  });

  test('deciding in a situation changes nothing of it', () => {
    const given = situation({});
    const before = JSON.stringify([given.records, given.facts]);
    expect(decideIn(given)).toEqual(decideIn(given));
    expect(JSON.stringify([given.records, given.facts])).toBe(before);
  });
});

describe('what nearly happened', () => {
  test('a rule that missed it by one part of its condition, and one that is for others', () => {
    const rules = (rulebook: Rulebook): void => {
      rulebook.keepOut.rules.push(
        rule('Near', { all: [at('harbour.example'), { fact: 'subject', test: { contains: ['invoice'] } }] }, { do: 'keepOut' }),
        rule('Far', { all: [at('nowhere.example'), { fact: 'subject', test: { contains: ['invoice'] } }] }, { do: 'keepOut' }),
        rule('General', { all: [{ fact: 'direction', in: ['received'] }, at('nowhere.example')] }, { do: 'keepOut' }),
        {
          ...(rule('Others', at('harbour.example'), { do: 'keepOut' }) as object),
          appliesTo: { mailboxes: ['x@quillmere.example'], users: [] },
        } as never,
      );
    };
    expect(nearMisses(situation({ rules })).map(({ step, name, missing }) => [step, name, missing])).toEqual([
      ['keepOut', 'Near', { fact: 'subject', test: { contains: ['invoice'] } }],
      ['keepOut', 'Others', null],
    ]);
  });
});

describe('what was said by hand', () => {
  const off = (kind: Pin['kind'], recordId: number | null, recordName: string): Pin => ({
    id: 1,
    does: 'takeOff',
    kind,
    recordId,
    recordName,
    reach: 'email',
    by: 'Nadia',
    own: true,
    at: NOW,
  });

  test('is why an email is not under a record, and taking it back would put it there', () => {
    const answer = whyNot(situation({ pins: [off('account', 10, 'Harbour Oriel')] }), harbour);
    expect(answer.filed).toBe(false);
    expect(answer.reasons).toEqual([
      'Nadia removed this email from the account Harbour Oriel on 2026-05-04.',
      'Rules never overturn that.',
    ]);
    expect(answer.changes[0]).toBe('what Nadia said by hand on 2026-05-04 were undone');
  });

  test('about everything holds for every record', () => {
    const answer = whyNot(situation({ pins: [off(null, null, '')] }), harbour);
    expect(answer.reasons.join(' ')).toContain('Nadia removed this email from every record on 2026-05-04.');
    expect(answer.changes[0]).toContain('were undone');
  });
});
