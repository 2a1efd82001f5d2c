import { describe, expect, test } from '@jest/globals';
import { PLAIN_DEAL } from '../decision/plainFacts';
import type { ConversationMemory } from '../facts/types';
import { NO_MEMORY } from '../facts/types';
import type { ConditionInput } from './condition';
import { conditionSchema } from './condition';
import { BadPattern } from './pattern';
import type { Mail } from '../testing/ruleWorld';
import { decided, OUR, rule } from '../testing/ruleWorld';
import { who } from '../testing/conditionsInShort';

const takesIn = (when: ConditionInput, mail: Mail, memory?: ConversationMemory): boolean => {
  const decision = decided(
    mail,
    (rulebook) => {
      rulebook.takeIn.scope = 'byHand';
      rulebook.takeIn.rules = [rule('takeIn', when, { do: 'takeIn' })];
    },
    [{ ...PLAIN_DEAL, id: 20, name: 'Outer harbour', stage: 'Quoted', amount: 5000, owner: OUR, people: ['contact:1'] }],
    memory,
  );
  return decision.docket[1]?.verdict === 'taken in';
};

describe('every condition', () => {
  const cases: [string, ConditionInput, Mail, Mail][] = [
    [
      'sender’s domain, sub-domains too',
      who('sender', { is: 'domain', value: 'harbour.example' }),
      { from: 'x@lab.harbour.example' },
      { from: OUR, to: ['ida@harbour.example'] },
    ],
    ['a domain exactly', who('any', { is: 'domain', value: 'harbour.example', exactly: true }), {}, { from: 'x@lab.harbour.example' }],
    [
      'a recipient’s address',
      who('recipient', { is: 'address', value: 'Ida@Harbour.example' }),
      { from: OUR, to: ['ida@harbour.example'] },
      {},
    ],
    ['every participant', who('every', { is: 'domain', value: 'harbour.example' }), {}, { cc: ['who@other.example'] }],
    ['in an address list by domain', who('any', { is: 'inList', list: 'press' }), { cc: ['a@news.press.example'] }, {}],
    [
      'in an address list by address',
      who('any', { is: 'inList', list: 'press' }),
      { cc: ['lawyer@other.example'] },
      { cc: ['clerk@other.example'] },
    ],
    ['a pattern', who('sender', { is: 'matches', pattern: '^i.a@' }), {}, { from: 'jo@harbour.example' }],
    ['a contact', who('any', { is: 'contact' }), {}, { from: 'who@harbour.example' }],
    ['a lead', who('any', { is: 'lead' }), { from: 'lea@dredge.example' }, {}],
    ['of an account by domain', who('any', { is: 'account' }), { from: 'who@harbour.example' }, { from: 'who@other.example' }],
    ['on an open deal', who('any', { is: 'onOpenDeal' }), {}, { from: 'jo@harbour.example' }],
    ['unknown', who('any', { is: 'unknown' }), { from: 'who@other.example' }, {}],
    ['a role address', who('sender', { is: 'roleAddress' }), { from: 'info@other.example' }, {}],
    ['at a public provider', who('sender', { is: 'publicProvider' }), { from: 'x@freemail.example' }, {}],
    ['direction', { fact: 'direction', in: ['sent'] }, { from: OUR, to: ['ida@harbour.example'] }, {}],
    ['mail class', { fact: 'mailClass', in: ['calendar'] }, { mailClass: 'calendar' }, {}],
    ['words of the subject', { fact: 'subject', test: { contains: ['QUOTATION'] } }, { subject: 'Your quotation' }, { subject: 'Gauge' }],
    ['a pattern of the subject', { fact: 'subject', test: { pattern: 'rma ?\\d+' } }, { subject: 'RMA 77' }, { subject: 'RMA' }],
    ['the text', { fact: 'body', test: { contains: ['tide gauge'] } }, { text: 'The tide gauge is here' }, { text: 'Hello' }],
    ['an attachment', { fact: 'attachment', test: { any: true } }, { attachments: ['a.pdf'] }, {}],
    [
      'an attachment’s name',
      { fact: 'attachment', test: { name: { pattern: '\\.dxf$' } } },
      { attachments: ['a.pdf', 'b.DXF'] },
      { attachments: ['a.pdf'] },
    ],
    ['size', { fact: 'size', atLeast: 5000 }, { size: 5000 }, { size: 4999 }],
    ['folder', { fact: 'folder', in: ['Customers'] }, { folders: ['customers'] }, { folders: ['INBOX'] }],
    ['mailbox', { fact: 'mailbox', in: [OUR] }, { mailboxes: [OUR] }, { mailboxes: ['other@quillmere.example'] }],
    ['member', { fact: 'user', in: [OUR] }, { users: [OUR] }, { users: [] }],
    ['number of recipients', { fact: 'recipients', atLeast: 3 }, { to: [OUR, 'a@x.example'], cc: ['b@x.example'] }, {}],
    ['sender check', { fact: 'senderCheck', in: ['failed', 'none'] }, { senderCheck: 'failed' }, { senderCheck: 'passed' }],
    ['sensitivity', { fact: 'sensitivity', in: ['private'] }, { sensitivity: 'private' }, { sensitivity: 'personal' }],
    ['account type', { fact: 'record', test: { field: 'accountType', in: ['Customer'] } }, {}, { from: 'lea@dredge.example' }],
    ['account owner', { fact: 'record', test: { field: 'accountOwner', in: [OUR] } }, {}, { from: 'lea@dredge.example' }],
    ['deal stage', { fact: 'record', test: { field: 'dealStage', in: ['quoted'] } }, {}, { from: 'jo@harbour.example' }],
    ['deal owner', { fact: 'record', test: { field: 'dealOwner', in: [OUR] } }, {}, { from: 'jo@harbour.example' }],
    ['deal open', { fact: 'record', test: { field: 'dealOpen', is: true } }, {}, { from: 'jo@harbour.example' }],
    ['deal amount', { fact: 'record', test: { field: 'dealAmount', atLeast: 5000 } }, {}, { from: 'jo@harbour.example' }],
    [
      'own field of an account',
      { fact: 'record', test: { field: 'own', of: 'account', key: 'region', test: { in: ['North'] } } },
      {},
      { from: 'lea@dredge.example' },
    ],
    [
      'own number',
      { fact: 'record', test: { field: 'own', of: 'account', key: 'gauges', test: { atLeast: 12 } } },
      {},
      { from: 'lea@dredge.example' },
    ],
    [
      'own date',
      { fact: 'record', test: { field: 'own', of: 'account', key: 'renewal', test: { onOrBefore: '2026-06-01' } } },
      {},
      { from: 'lea@dredge.example' },
    ],
    [
      'all of',
      {
        all: [
          { fact: 'size', atLeast: 10 },
          { fact: 'subject', test: { contains: ['a'] } },
        ],
      },
      { size: 10, subject: 'a' },
      { size: 10, subject: 'b' },
    ],
    [
      'any of',
      {
        any: [
          { fact: 'size', atLeast: 9999 },
          { fact: 'subject', test: { contains: ['a'] } },
        ],
      },
      { subject: 'a' },
      { subject: 'b' },
    ],
    ['none of, nested', { none: [{ any: [{ fact: 'subject', test: { contains: ['a'] } }] }] }, { subject: 'b' }, { subject: 'a' }],
  ];
  test.each(cases)('%s: holds where it should, and not elsewhere', (_, when, yes, no) => {
    expect([takesIn(when, yes), takesIn(when, no)]).toEqual([true, false]);
  });

  test('of the conversation: first email, answer to filed mail, filed under a record', () => {
    const after: ConversationMemory = { ...NO_MEMORY, earlier: 1, filed: true, records: new Set(['deal:20']) };
    const ask = (when: ConditionInput) => [takesIn(when, {}), takesIn(when, {}, after)];
    expect(ask({ fact: 'conversation', is: 'first' })).toEqual([true, false]);
    expect(ask({ fact: 'conversation', is: 'answerToFiled' })).toEqual([false, true]);
    expect(ask({ fact: 'filedUnder', kind: 'deal', id: 20 })).toEqual([false, true]);
  });

  test('what the schema does not name is refused, and an empty choice too', () => {
    for (const bad of [
      { fact: 'weather', in: ['rain'] },
      { fact: 'direction', in: [] },
      { fact: 'size', atLeast: 1, colour: 'red' },
      who('any', { is: 'domain', value: 'nodots' }),
    ])
      expect(conditionSchema.safeParse(bad).success).toBe(false);
  });

  test('a pattern that cannot be read says so; a costly one stays linear', () => {
    const bad = rule('takeIn', { fact: 'subject', test: { pattern: '(a' } }, { do: 'takeIn' });
    const compile = (): unknown => decided({}, (rulebook) => void (rulebook.takeIn.rules = [bad]));
    expect(compile).toThrow(BadPattern);
    expect(compile).toThrow('The pattern “(a” cannot be read');
    expect(takesIn({ fact: 'subject', test: { pattern: '(a+)+$' } }, { subject: `${'a'.repeat(2000)}!` })).toBe(false);
  });
});
