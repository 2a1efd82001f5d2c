import { describe, expect, test } from '@jest/globals';
import { rankLikely } from './likely';
import type { RepairedEmail } from './ruleOffer';
import { ruleOffer } from './ruleOffer';

const filed = (...externals: string[]): RepairedEmail => ({
  does: 'file',
  kind: 'deal',
  recordId: 7,
  recordName: 'Outer harbour',
  externals,
});
const isPublic = (domain: string): boolean => domain === 'freemail.example';

describe('a rule is offered', () => {
  test('after the third repair alike, and not before', () => {
    const two = [filed('ida@harbour.example'), filed('ida@harbour.example')];
    expect(ruleOffer(two, isPublic)).toBeNull();
    expect(ruleOffer([...two, filed('ida@harbour.example', 'ravi@reseller.example')], isPublic)).toMatchObject({
      step: 'match',
      because: '3 emails with ida@harbour.example were filed under Outer harbour by hand.',
      rule: {
        when: { fact: 'participant', which: 'any', test: { is: 'address', value: 'ida@harbour.example' } },
        then: { do: 'fileUnder', kind: 'deal', id: 7 },
      },
    });
  });

  test('about the company where several of its people take part', () => {
    const offer = ruleOffer([filed('ida@harbour.example'), filed('jo@harbour.example'), filed('ida@harbour.example')], isPublic);
    expect(offer?.rule.when).toMatchObject({ test: { is: 'domain', value: 'harbour.example' } });
  });

  test('about a person, never about a public provider', () => {
    const offer = ruleOffer(
      [filed('a@freemail.example'), filed('a@freemail.example', 'b@freemail.example'), filed('a@freemail.example')],
      isPublic,
    );
    expect(offer?.rule.when).toMatchObject({ test: { is: 'address', value: 'a@freemail.example' } });
  });

  test('not where no one outside is in all of them', () => {
    expect(ruleOffer([filed('a@one.example'), filed('b@two.example'), filed('c@three.example')], isPublic)).toBeNull();
  });

  test.each([
    ['deal', 'match', { do: 'neverDeals' }],
    ['account', 'match', { do: 'neverAccounts' }],
    [null, 'takeIn', { do: 'leaveToOwner' }],
  ] as const)('for emails taken off (%s)', (kind, step, then) => {
    const off: RepairedEmail = {
      does: 'takeOff',
      kind,
      recordId: kind === null ? null : 1,
      recordName: 'X',
      externals: ['x@dentist.example'],
    };
    expect(ruleOffer([off, off, off], isPublic)).toMatchObject({ step, rule: { then } });
  });
});

describe('likely records', () => {
  const record = (kind: 'deal' | 'account' | 'contact', id: number) => ({ kind, id, name: `${kind} ${id}`, detail: '' });

  test('come by the evidence for them, which adds up and is said', () => {
    const ranked = rankLikely([
      { ...record('contact', 1), reason: { why: 'person', address: 'ida@harbour.example' } },
      { ...record('deal', 2), reason: { why: 'deal', people: 1, open: true } },
      { ...record('deal', 3), reason: { why: 'deal', people: 3, open: true } },
      { ...record('deal', 3), reason: { why: 'conversation', emails: 2 } },
      { ...record('deal', 3), reason: { why: 'conversation', emails: 2 } },
    ]);
    expect(ranked.map((item) => `${item.kind}:${item.id}`)).toEqual(['deal:3', 'deal:2', 'contact:1']);
    expect(ranked[0]).toMatchObject({ why: ['2 other emails of this conversation are there', '3 of its people take part'] });
  });

  test('that are asked for by name go before those that are only likely', () => {
    const ranked = rankLikely([
      { ...record('deal', 1), reason: { why: 'candidate', score: 0.9 } },
      { ...record('account', 2), reason: { why: 'name', begins: true } },
    ]);
    expect(ranked[0]?.id).toBe(2);
  });
});
