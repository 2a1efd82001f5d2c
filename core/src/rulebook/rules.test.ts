import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { docketSentences } from '../decision/docketSentences';
import { PLAIN_DEAL } from '../decision/plainFacts';
import type { ConversationMemory } from '../facts/types';
import type { Decision } from '../decision/types';
import { NO_MEMORY } from '../facts/types';
import { CompiledStep } from './compiledStep';
import type { ConditionInput } from './condition';
import { conditionSchema } from './condition';
import { rulebookJsonSchema } from './jsonSchema';
import { BadPattern } from './pattern';
import { readRulebook } from './readRulebook';
import type { Action, Rule } from './rule';
import { ACTIONS, RULE_STEPS } from './rule';
import { RuleContext } from './ruleContext';
import type { Rulebook } from './schema';
import { cautiousRulebook, keepOutEntrySchema } from './schema';
import type { Mail } from '../testing/ruleWorld';
import { DAY, decided, directory, factsOf, NOW, OUR, rule } from '../testing/ruleWorld';

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
const who = (which: 'sender' | 'recipient' | 'any' | 'every', test: object): ConditionInput =>
  ({ fact: 'participant', which, test }) as ConditionInput;

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

describe('the steps', () => {
  test('the first rule that speaks decides, one that is off or for other mailboxes is silent', () => {
    const always: ConditionInput = { fact: 'size', atLeast: 0 };
    const verdict = (rules: Rule<Action<'takeIn'>>[]) =>
      decided({ mailboxes: [OUR] }, (rulebook) => void (rulebook.takeIn.rules = rules)).docket[1]?.rule;
    const left = rule('takeIn', always, { do: 'leaveToOwner' });
    const track = rule('takeIn', always, { do: 'takeIn' });
    expect(verdict([left, track])).toBe(left.id);
    expect(verdict([{ ...left, on: false }, track])).toBe(track.id);
    expect(verdict([{ ...left, appliesTo: { mailboxes: ['other@quillmere.example'], users: [] } }, track])).toBe(track.id);
    expect(verdict([{ ...left, appliesTo: { mailboxes: [OUR], users: [] } }, track])).toBe(left.id);
  });

  test('a lawyer in copy is ignored; the customer’s email stays', () => {
    const decision = decided({ cc: ['lawyer@other.example'] }, (rulebook) => {
      rulebook.keepOut.rules = [rule('keepOut', who('any', { is: 'inList', list: 'press' }), { do: 'ignore' })];
    });
    expect(decision.outcome).toBe('filed');
    expect(docketSentences(decision.docket)[0]?.because).toEqual([
      expect.stringContaining('applies: lawyer@other.example (lawyer@other.example in Press and law firms).'),
    ]);
    const alone = decided({ from: 'lawyer@other.example' }, (rulebook) => {
      rulebook.keepOut.rules = [rule('keepOut', who('any', { is: 'inList', list: 'press' }), { do: 'ignore' })];
    });
    expect(alone.outcome).toBe('kept out');
  });

  test('what is let through is let through in spite of later rules, entries and machine mail', () => {
    const decision = decided({ mailClass: 'notice' }, (rulebook) => {
      rulebook.keepOut.rules = [
        rule('keepOut', who('sender', { is: 'domain', value: 'harbour.example' }), { do: 'letThrough' }),
        rule('keepOut', { fact: 'size', atLeast: 0 }, { do: 'keepOut' }),
      ];
    });
    expect(decision.outcome).toBe('filed');
  });

  test('Match: never under deals, never under accounts, under a named record, held for a person', () => {
    const deals = [{ ...PLAIN_DEAL, id: 20, name: 'Outer harbour', people: ['contact:1'] }];
    const filed = (then: Action<'match'>) => {
      const decision = decided({}, (rulebook) => void (rulebook.match.rules = [rule('match', { fact: 'size', atLeast: 0 }, then)]), deals);
      return [decision.outcome, ...decision.filings.map((filing) => `${filing.kind}:${filing.id}`)];
    };
    expect(filed({ do: 'neverDeals' })).toEqual(['filed', 'contact:1', 'account:10']);
    expect(filed({ do: 'neverAccounts' })).toEqual(['filed', 'contact:1', 'deal:20']);
    expect(filed({ do: 'fileUnder', kind: 'lead', id: 3, name: 'Lea' })).toEqual(['filed', 'lead:3', 'contact:1', 'account:10', 'deal:20']);
    expect(filed({ do: 'fileUnder', kind: 'deal', id: 999, name: 'Gone' })).toEqual(['filed', 'contact:1', 'account:10', 'deal:20']);
    expect(filed({ do: 'hold' })).toEqual(['waiting', 'contact:1', 'account:10', 'deal:20']);
  });

  test('Create: the first rule that speaks on each unknown person', () => {
    const rules = [
      rule(
        'create',
        { fact: 'participant', which: 'this', test: { is: 'domain', value: 'fish.example' } },
        { do: 'lead', account: false, after: 'firstEmail', emails: 3, owner: 'mailbox' },
      ),
      rule('create', { fact: 'participant', which: 'this', test: { is: 'domain', value: 'ask.example' } }, { do: 'ask' }),
      rule('create', { fact: 'participant', which: 'this', test: { is: 'unknown' } }, { do: 'nothing' }),
    ];
    const decision = decided(
      { cc: ['ola@fish.example', 'who@ask.example', 'nil@else.example'] },
      (rulebook) => void (rulebook.create.rules = rules),
    );
    expect(decision.creations.map((creation) => [creation.kind, creation.address, creation.rule])).toEqual([
      ['lead', 'ola@fish.example', rules[0]?.id],
    ]);
    expect(decision.questions).toMatchObject([{ about: 'person', domain: 'who@ask.example' }]);
    expect(decision.outcome).toBe('waiting');
  });

  test('Keep out: who is listed does not count in an email that is let through for someone else', () => {
    const change = (when: ConditionInput) => (rulebook: Rulebook) => {
      rulebook.keepOut.entries = ['law.example', 'dredge.example'].map((value, at) =>
        keepOutEntrySchema.parse({ id: `entry-${at}`, kind: 'domain', value, effect: at === 0 ? 'ignore' : 'keepOut' }),
      );
      rulebook.keepOut.rules = [rule('keepOut', when, { do: 'letThrough' })];
      Object.assign(rulebook.create, { people: 'contact', after: 'firstEmail', accounts: false });
    };
    const contacts = change(who('any', { is: 'contact' }));
    const withBoth = decided({ cc: ['lea@dredge.example', 'cora@law.example'] }, contacts);
    expect([withBoth.filings.map((filing) => `${filing.kind}:${filing.id}`), withBoth.creations]).toEqual([
      ['contact:1', 'account:10'],
      [],
    ]);
    expect(withBoth.docket[0]?.evidence).toContainEqual({
      fact: 'entry',
      entry: 'entry-1',
      value: 'dredge.example',
      participant: 'lea@dredge.example',
      effect: 'ignore',
    });
    // Of whom the rule speaks counts, and so does everyone where no one else would be left.
    const domain = change(who('any', { is: 'domain', value: 'law.example' }));
    expect(decided({ cc: ['cora@law.example'] }, domain).creations.map((creation) => creation.address)).toEqual(['cora@law.example']);
    const subject = change({ fact: 'subject', test: { contains: ['gauge'] } });
    expect(decided({ from: 'cora@law.example', subject: 'A gauge' }, subject).creations.map((creation) => creation.address)).toEqual([
      'cora@law.example',
    ]);
    expect(decided({ from: 'cora@law.example', subject: 'Our fee' }, contacts).outcome).toBe('kept out');
  });

  test('Create: a lead’s company on record has the email, too, and a shared domain is asked about', () => {
    const change = (rulebook: Rulebook): void => void Object.assign(rulebook.create, { people: 'lead', after: 'firstEmail' });
    const decision = decided({ from: 'anew@harbour.example' }, change);
    expect(decision.filings.map((filing) => filing.kind).sort()).toEqual(['account', 'lead']);
    expect(decision.docket[2]?.evidence).toEqual([
      { fact: 'account', id: 10, name: 'Harbour Oriel', by: 'domain', via: 'harbour.example' },
    ]);
  });

  test('Create after an answer: only who answers us in a conversation', () => {
    const rules = [
      rule('create', { fact: 'size', atLeast: 0 }, { do: 'contact', account: true, after: 'theyAnswered', emails: 3, owner: 'mailbox' }),
    ];
    const made = (memory: ConversationMemory) =>
      decided({ from: 'new@else.example' }, (rulebook) => void (rulebook.create.rules = rules), [], memory).creations.length;
    expect([made(NO_MEMORY), made({ ...NO_MEMORY, earlier: 1 }), made({ ...NO_MEMORY, earlier: 1, weWrote: true })]).toEqual([0, 0, 2]);
    // Whoever is in copy of an answer has not answered.
    const copied = decided(
      { from: 'new@else.example', cc: ['boss@else.example', 'una@ferries.example'] },
      (rulebook) => void (rulebook.create.rules = rules),
      [],
      { ...NO_MEMORY, earlier: 1, weWrote: true },
    );
    expect(copied.creations.map((creation) => creation.address ?? creation.domain)).toEqual(['else.example', 'new@else.example']);
    expect(copied.docket.flatMap((entry) => entry.evidence)).toContainEqual({
      fact: 'not created',
      address: 'boss@else.example',
      because: 'no answer',
    });
  });

  test('Share: by rule, but never against the mailbox’s owner', () => {
    const seen = (sharedByRules: boolean) =>
      decided({ sharedByRules }, (rulebook) => {
        rulebook.share.rules = [rule('share', who('any', { is: 'contact' }), { do: 'everyone', existenceOnly: false })];
      }).visibility;
    expect([seen(true), seen(false)]).toEqual(['everyone', 'owner']);
  });
});

describe('which deal', () => {
  const deals = [
    { ...PLAIN_DEAL, id: 20, name: 'Outer harbour, 12 gauges', owner: OUR, people: ['contact:1', 'contact:2'], activity: [NOW - 4 * DAY] },
    { ...PLAIN_DEAL, id: 21, name: 'Inner harbour, buoys', people: ['contact:1'] },
  ];
  const scored = (mail: Mail, change: (rulebook: Rulebook) => void = () => undefined): Decision =>
    decided(
      { users: [OUR], cc: ['jo@harbour.example'], ...mail },
      (rulebook) => {
        rulebook.match.deal = 'scored';
        change(rulebook);
      },
      deals,
    );

  test('the best when it is good enough and clearly ahead, with its evidence', () => {
    const decision = scored({ subject: 'The outer gauges' });
    expect(decision.filings).toContainEqual({ kind: 'deal', id: 20, rule: 'match.deal-by-score' });
    const words = docketSentences(decision.docket)[2]?.because.join(' ') ?? '';
    expect(words).toContain(
      'Deal Outer harbour, 12 gauges: 2 of its 2 people take part, its owner has the email, the subject says “outer”, “gauges”, last filed there 4 days before: 1.00',
    );
    expect(words).toContain('next best Inner harbour, buoys 0.18');
  });

  test('waits when it is close, or not good enough', () => {
    for (const change of [
      (rulebook: Rulebook) => void (rulebook.match.threshold = 0.99),
      (rulebook: Rulebook) => void (rulebook.match.margin = 0.9),
    ]) {
      const decision = scored({ subject: 'The gauges' }, change);
      expect([decision.outcome, decision.questions[0]?.candidates.map((candidate) => candidate.id)]).toEqual(['waiting', [20, 21]]);
    }
  });
});

describe('a rulebook of an older version', () => {
  test('is raised to the newest, and decides as before', () => {
    const { keepOut, takeIn, match, create, share, ...rest } = cautiousRulebook(['quillmere.example']);
    const without = (part: object) =>
      Object.fromEntries(
        Object.entries(part).filter(([name]) => !['rules', 'threshold', 'margin', 'leadDays', 'mostPeople'].includes(name)),
      );
    const old = {
      ...rest,
      formatVersion: 1,
      keepOut: without(keepOut),
      takeIn: without(takeIn),
      match: without(match),
      create: without(create),
      share: without(share),
    };
    expect(readRulebook(old).data).toEqual(cautiousRulebook(['quillmere.example']));
  });

  test('says the effects of its rules and entries in the words of today', () => {
    const rulebook = cautiousRulebook(['quillmere.example']);
    rulebook.keepOut.entries = [keepOutEntrySchema.parse({ id: 'e', kind: 'domain', value: 'press.example', effect: 'ignore' })];
    rulebook.keepOut.rules = [rule('keepOut', { all: [] }, { do: 'ignore' }), rule('keepOut', { all: [] }, { do: 'letThrough' })];
    rulebook.takeIn.rules = [rule('takeIn', { all: [] }, { do: 'takeIn' }), rule('takeIn', { all: [] }, { do: 'leaveToOwner' })];
    const old = JSON.parse(
      JSON.stringify({ ...rulebook, formatVersion: 2 })
        .replaceAll('"ignore"', '"disregard"')
        .replaceAll('"do":"takeIn"', '"do":"track"')
        .replaceAll('"leaveToOwner"', '"leaveLoose"'),
    ) as unknown;
    expect(JSON.stringify(old)).toContain('leaveLoose');
    expect(readRulebook(old).data).toEqual(rulebook);
    expect(readRulebook({ formatVersion: 2, takeIn: [], keepOut: null }).success).toBe(false);
  });
});

describe('finding rules by what they need', () => {
  const domains = ['a.example', 'b.example', 'mail.a.example', 'c.example'];
  const leafOf = fc.oneof(
    fc.constantFrom(...domains).map((value): ConditionInput => who('any', { is: 'domain', value })),
    fc.constantFrom(...domains).map((value): ConditionInput => who('sender', { is: 'address', value: `x@${value}` })),
    fc.constantFrom('gauge', 'buoy').map((word): ConditionInput => ({ fact: 'subject', test: { contains: [word] } })),
  );
  const condition = fc.letrec<{ node: ConditionInput }>((tie) => ({
    node: fc.oneof(
      { maxDepth: 3 },
      leafOf,
      fc.array(tie('node'), { maxLength: 3 }).map((all): ConditionInput => ({ all })),
      fc.array(tie('node'), { maxLength: 3 }).map((any): ConditionInput => ({ any })),
      fc.array(tie('node'), { maxLength: 3 }).map((none): ConditionInput => ({ none })),
    ),
  })).node;

  test('never leaves out a rule that would speak, and keeps their order', () => {
    const parts = { lists: new Map(), personKey: (address: string) => address, isPublicProvider: () => false, isRoleAddress: () => false };
    fc.assert(
      fc.property(
        fc.array(condition, { maxLength: 8 }),
        fc.array(fc.constantFrom(...domains), { minLength: 1, maxLength: 3 }),
        fc.constantFrom('gauge', 'none'),
        (conditions, seen, subject) => {
          const step = new CompiledStep(
            conditions.map((when) => rule('takeIn', when, { do: 'takeIn' })),
            parts,
          );
          const facts = factsOf({ from: `x@${seen[0] ?? ''}`, to: seen.slice(1).map((domain) => `y@${domain}`), subject });
          const context = new RuleContext(facts, facts.participants, 'received', NO_MEMORY, directory(), parts.personKey);
          const asked = step.all(context).map((spoken) => spoken.rule.id);
          const all = conditions
            .map((_, at) => at)
            .filter(
              (at) => new CompiledStep([rule('takeIn', conditions[at] as ConditionInput, { do: 'takeIn' })], parts).all(context).length > 0,
            );
          expect(asked).toHaveLength(all.length);
          expect([...asked].sort((first, second) => Number(first.slice(5)) - Number(second.slice(5)))).toEqual(asked);
        },
      ),
      { numRuns: 300 },
    );
  });
});

test('the published JSON Schema names every step and condition', () => {
  const text = JSON.stringify(rulebookJsonSchema());
  for (const word of ['keepOut', 'takeIn', 'match', 'create', 'share', 'participant', 'inList', 'sensitivity', 'theyAnswered', 'fileUnder'])
    expect(text).toContain(word);
});

test('every step has rules of its own', () => {
  expect(Object.keys(ACTIONS)).toEqual([...RULE_STEPS]);
});
