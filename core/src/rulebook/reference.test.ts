import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { NO_MEMORY } from '../facts/types';
import { decided, factsOf, OUR, rule } from '../testing/ruleWorld';
import type { Condition, ParticipantTest } from './condition';
import type { RuleStep } from './rule';
import { RULE_STEPS } from './rule';
import type { Rulebook } from './schema';
import { cautiousRulebook } from './schema';
import { plainly } from '../testing/plainRules';

const DOMAINS = ['harbour.example', 'mail.harbour.example', 'dredge.example', 'press.example', 'freemail.example', 'other.example'];

const ADDRESSES = [
  'ida@harbour.example',
  'lea@dredge.example',
  'info@press.example',
  'lawyer@other.example',
  'x@freemail.example',
  'y@mail.harbour.example',
];

const participantTest: fc.Arbitrary<ParticipantTest> = fc.oneof(
  fc.record({ is: fc.constant('domain' as const), value: fc.constantFrom(...DOMAINS), exactly: fc.boolean() }),
  fc.record({ is: fc.constant('address' as const), value: fc.constantFrom(...ADDRESSES) }),
  fc.constant({ is: 'inList' as const, list: 'press' }),
  fc
    .constantFrom(
      'contact' as const,
      'lead' as const,
      'account' as const,
      'unknown' as const,
      'roleAddress' as const,
      'publicProvider' as const,
    )
    .map((is) => ({ is })),
);

const leaf: fc.Arbitrary<Condition> = fc.oneof(
  {
    weight: 4,
    arbitrary: fc.record({
      fact: fc.constant('participant' as const),
      which: fc.constantFrom('sender' as const, 'recipient' as const, 'any' as const, 'every' as const),
      test: participantTest,
    }),
  },
  {
    weight: 1,
    arbitrary: fc.record({
      fact: fc.constant('direction' as const),
      in: fc.subarray(['sent' as const, 'received' as const, 'internal' as const], { minLength: 1 }),
    }),
  },
  {
    weight: 1,
    arbitrary: fc.record({
      fact: fc.constant('mailClass' as const),
      in: fc.subarray(['person' as const, 'newsletter' as const], { minLength: 1 }),
    }),
  },
  {
    weight: 1,
    arbitrary: fc.record({
      fact: fc.constant('subject' as const),
      test: fc.record({ contains: fc.subarray(['gauge', 'invoice'], { minLength: 1 }) }),
    }),
  },
  { weight: 1, arbitrary: fc.record({ fact: fc.constant('recipients' as const), atLeast: fc.integer({ min: 1, max: 4 }) }) },
  { weight: 1, arbitrary: fc.record({ fact: fc.constant('team' as const), in: fc.subarray(['coast', 'rivers'], { minLength: 1 }) }) },
);

const { condition } = fc.letrec<{ condition: Condition }>((tie) => ({
  condition: fc.oneof(
    { maxDepth: 3, withCrossShrink: true },
    leaf,
    fc.array(tie('condition'), { maxLength: 3 }).map((all) => ({ all })),
    fc.array(tie('condition'), { maxLength: 3 }).map((any) => ({ any })),
    fc.array(tie('condition'), { maxLength: 3 }).map((none) => ({ none })),
  ),
}));

const ACTIONS_OF: { [S in RuleStep]: object[] } = {
  keepOut: [{ do: 'keepOut' }, { do: 'ignore' }, { do: 'letThrough' }],
  takeIn: [{ do: 'takeIn' }, { do: 'leaveToOwner' }],
  match: [{ do: 'neverDeals' }, { do: 'neverAccounts' }],
  create: [{ do: 'nothing' }],
  share: [{ do: 'owner' }, { do: 'everyone' }],
};

const oneRule = fc.record({
  when: condition,
  action: fc.nat(2),
  on: fc.boolean(),
  team: fc.option(fc.constantFrom('coast', 'rivers'), { freq: 4 }),
});

const book = fc.record({
  keepOut: fc.array(oneRule, { maxLength: 4 }),
  takeIn: fc.array(oneRule, { maxLength: 4 }),
  match: fc.array(oneRule, { maxLength: 4 }),
  share: fc.array(oneRule, { maxLength: 4 }),
});

const mail = fc.record({
  from: fc.constantFrom(OUR, ...ADDRESSES),
  to: fc.uniqueArray(fc.constantFrom(OUR, ...ADDRESSES), { minLength: 1, maxLength: 4 }),
  subject: fc.constantFrom('The gauge', 'Invoice 7', ''),
  mailClass: fc.constantFrom('person' as const, 'newsletter' as const),
  teams: fc.subarray(['coast', 'rivers']),
});

function rulebookFrom(steps: typeof book extends fc.Arbitrary<infer T> ? T : never): Rulebook {
  const rulebook = cautiousRulebook(['quillmere.example']);
  for (const step of RULE_STEPS) {
    if (step === 'create') continue;
    const rules = steps[step].map(({ when, action, on, team }) =>
      rule(step, when as never, ACTIONS_OF[step][action % ACTIONS_OF[step].length] as never, {
        on,
        ...(team ? { appliesTo: { teams: [team] } } : {}),
      }),
    );
    Object.assign(rulebook[step], { rules });
  }
  return rulebook;
}

/** The same, as the compiled rulebook decides it. */
function asCompiled(rulebook: Rulebook, facts: Parameters<typeof factsOf>[0]): unknown {
  const decision = decided(facts, (into) => void Object.assign(into, rulebook), [], NO_MEMORY);
  const [, takeIn, match, , share] = decision.docket;
  if (decision.outcome === 'kept out') return { keptOut: true };
  if (takeIn?.verdict !== 'taken in') return { keptOut: false, tracked: false };
  const own = (id: string | null | undefined): string | undefined => (id?.startsWith('rule-') ? id : undefined);
  const spoke = (match?.evidence ?? []).flatMap((evidence) => (evidence.fact === 'rule' ? [evidence.rule] : []));
  return {
    keptOut: false,
    tracked: true,
    takenBy: own(takeIn.rule),
    matching: spoke,
    sharedBy: decision.filings.length === 0 ? 'nothing to share' : own(share?.rule),
  };
}

describe('compiled rules', () => {
  test('say what a plain interpreter of them says, on any rulebook and any email', () => {
    fc.assert(
      fc.property(book, mail, (steps, email) => {
        const rulebook = rulebookFrom(steps);
        const compiled = asCompiled(rulebook, email) as { sharedBy?: string };
        const plain = plainly(rulebook, factsOf(email)) as { sharedBy?: string };
        // An email under no record is seen by its owner, whatever the rules say.
        if (compiled.sharedBy === 'nothing to share') plain.sharedBy = compiled.sharedBy;
        expect(compiled).toEqual(plain);
      }),
      { numRuns: 600 },
    );
  });

  test('of different steps do not depend on each other’s order, and neither do those that exclude each other', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.constantFrom(...ADDRESSES), { minLength: 2, maxLength: 5 }), mail, (addresses, email) => {
        const rules = addresses.map((value) =>
          rule('takeIn', { fact: 'participant', which: 'sender', test: { is: 'address', value } }, { do: 'leaveToOwner' }),
        );
        const by = (order: typeof rules) => decided(email, (rulebook) => void (rulebook.takeIn.rules = order)).docket[1];
        expect(by([...rules].reverse())).toEqual(by(rules));
      }),
      { numRuns: 200 },
    );
  });
});
