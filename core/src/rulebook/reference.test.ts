import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { directionOf, externalParticipants } from '../decision/decide';
import type { DecisionFacts } from '../facts/types';
import { NO_MEMORY } from '../facts/types';
import type { Participant } from '../emails/emailFacts';
import { decided, factsOf, LISTS, OUR, rule } from '../testing/ruleWorld';
import { compileRulebook } from './compile';
import type { Condition, Leaf, ParticipantTest } from './condition';
import type { Action, Rule, RuleStep } from './rule';
import { RULE_STEPS } from './rule';
import type { Rulebook } from './schema';
import { cautiousRulebook } from './schema';

/*
 * A plain interpreter of rules, written for being read and not for speed: no index, no closures, no ordering by cost. What is compiled
 * must say the same on any rulebook and any email.
 */

const CONTACTS = ['ida@harbour.example', 'jo@harbour.example'];
const LEADS = ['lea@dredge.example'];
const PROVIDERS = ['freemail.example'];

interface Asked {
  facts: DecisionFacts;
  externals: Participant[];
  direction: string;
  focus: Participant | null;
}

function holds(condition: Condition, asked: Asked): boolean {
  if ('all' in condition) return condition.all.every((item) => holds(item, asked));
  if ('any' in condition) return condition.any.some((item) => holds(item, asked));
  if ('none' in condition) return !condition.none.some((item) => holds(item, asked));
  return leafHolds(condition, asked);
}

function leafHolds(leaf: Leaf, { facts, externals, direction, focus }: Asked): boolean {
  switch (leaf.fact) {
    case 'participant': {
      const asked = externals.filter((external) =>
        leaf.which === 'sender'
          ? external.role === 'from'
          : leaf.which === 'recipient'
            ? external.role !== 'from'
            : leaf.which !== 'this' || !focus || external === focus,
      );
      const yes = asked.filter((participant) => isSo(leaf.test, participant));
      return leaf.which === 'every' ? asked.length > 0 && yes.length === asked.length : yes.length > 0;
    }
    case 'direction':
      return (leaf.in as string[]).includes(direction);
    case 'mailClass':
      return (leaf.in as string[]).includes(facts.mailClass);
    case 'subject':
      return 'contains' in leaf.test && leaf.test.contains.some((word) => facts.subject.toLowerCase().includes(word.toLowerCase()));
    case 'recipients':
      return facts.participants.filter((participant) => ['to', 'cc', 'bcc'].includes(participant.role)).length >= leaf.atLeast;
    case 'size':
      return facts.size >= leaf.atLeast;
    case 'team':
      return leaf.in.some((value) => facts.teams.includes(value));
    default:
      throw new Error(`The plain interpreter is not asked about ${leaf.fact}.`);
  }
}

function isSo(test: ParticipantTest, { address, domain }: Participant): boolean {
  const under = (value: string): boolean => domain === value || domain.endsWith(`.${value}`);
  switch (test.is) {
    case 'address':
      return address === test.value.toLowerCase();
    case 'domain':
      return test.exactly ? domain === test.value : under(test.value);
    case 'inList':
      return LISTS.some(
        (list) =>
          list.id === test.list && list.entries.some((entry) => (entry.kind === 'address' ? entry.value === address : under(entry.value))),
      );
    case 'contact':
      return CONTACTS.includes(address);
    case 'lead':
      return LEADS.includes(address);
    case 'account':
      return under('harbour.example');
    case 'unknown':
      return !CONTACTS.includes(address) && !LEADS.includes(address);
    case 'roleAddress':
      return /^(?:info|no-reply)@/.test(address);
    case 'publicProvider':
      return PROVIDERS.includes(domain);
    default:
      throw new Error(`The plain interpreter is not asked about ${test.is}.`);
  }
}

const speaks = ({ on, when, appliesTo }: Rule, asked: Asked): boolean => {
  const teams = appliesTo.teams ?? [];
  return on && (teams.length === 0 || teams.some((team) => asked.facts.teams.includes(team))) && holds(when, asked);
};

/** Participants whom a condition names: those of every fact about participants that holds, where none stands under “none”. */
function namedIn(condition: Condition, asked: Asked): string[] {
  if ('none' in condition) return [];
  if ('all' in condition) return condition.all.flatMap((item) => namedIn(item, asked));
  if ('any' in condition) return condition.any.filter((item) => holds(item, asked)).flatMap((item) => namedIn(item, asked));
  if (condition.fact !== 'participant') return [];
  const { which, test } = condition;
  return asked.externals
    .filter((external) => (which === 'sender' ? external.role === 'from' : which === 'recipient' ? external.role !== 'from' : true))
    .filter((external) => isSo(test, external))
    .map((external) => external.address);
}

/** What the steps say by their rules alone: kept out by which, taken in by which, which apply at Match, who sees it by which. */
function plainly(rulebook: Rulebook, facts: DecisionFacts): unknown {
  const compiled = compileRulebook(rulebook, { teamAddresses: [], publicProviders: new Set(PROVIDERS), lists: LISTS });
  const externals = externalParticipants(facts.participants, compiled);
  const direction = directionOf(facts.participants, externals, compiled);
  const asked: Asked = { facts, externals, direction, focus: null };
  const gone = new Set<string>();
  let kept: string | null = null;
  let passed = false;
  for (const item of rulebook.keepOut.rules as Rule<Action<'keepOut'>>[]) {
    if (kept !== null || passed || !speaks(item, asked)) continue;
    if (item.then.do === 'letThrough') passed = true;
    else {
      const named = namedIn(item.when, asked);
      if (item.then.do === 'keepOut' || named.length === 0) kept = item.id;
      else for (const address of named) gone.add(address);
    }
  }
  const left = externals.filter((external) => !gone.has(external.address));
  if (kept !== null) return { keptOut: true };
  if (!passed && (direction === 'internal' || rulebook.keepOut.machineMail.includes(facts.mailClass as never))) return { keptOut: true };
  if (!passed && externals.length > 0 && left.length === 0) return { keptOut: true };
  const after: Asked = { ...asked, externals: left };
  const first = (step: RuleStep): string | undefined => (rulebook[step].rules as Rule[]).find((item) => speaks(item, after))?.id;
  const takenBy = left.length > 0 ? first('takeIn') : undefined;
  const said = (rulebook.takeIn.rules as Rule<Action<'takeIn'>>[]).find((item) => item.id === takenBy)?.then.do;
  const tracked = said === undefined ? left.length > 0 : said === 'takeIn';
  if (!tracked) return { keptOut: false, tracked: false };
  return {
    keptOut: false,
    tracked: true,
    takenBy,
    matching: (rulebook.match.rules as Rule[]).filter((item) => speaks(item, after)).map((item) => item.id),
    sharedBy: first('share'),
  };
}

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
