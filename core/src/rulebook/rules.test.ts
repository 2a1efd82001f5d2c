import { describe, expect, test } from '@jest/globals';
import { docketSentences } from '../decision/docketSentences';
import { PLAIN_DEAL } from '../decision/plainFacts';
import type { ConversationMemory } from '../facts/types';
import type { Decision } from '../decision/types';
import { NO_MEMORY } from '../facts/types';
import type { ConditionInput } from './condition';
import { rulebookJsonSchema } from './jsonSchema';
import type { Action, Rule } from './rule';
import { ACTIONS, RULE_STEPS } from './rule';
import type { Rulebook } from './schema';
import { keepOutEntrySchema } from './schema';
import type { Mail } from '../testing/ruleWorld';
import { DAY, decided, NOW, OUR, rule } from '../testing/ruleWorld';
import { who } from '../testing/conditionsInShort';

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

test('the published JSON Schema names every step and condition', () => {
  const text = JSON.stringify(rulebookJsonSchema());
  for (const word of ['keepOut', 'takeIn', 'match', 'create', 'share', 'participant', 'inList', 'sensitivity', 'theyAnswered', 'fileUnder'])
    expect(text).toContain(word);
});

test('every step has rules of its own', () => {
  expect(Object.keys(ACTIONS)).toEqual([...RULE_STEPS]);
});
