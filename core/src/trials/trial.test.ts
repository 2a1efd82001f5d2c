import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Decision } from '../decision/types';
import { visibilityKey } from '../decision/visibility';
import type { Rulebook } from '../rulebook/schema';
import { decided, OUR, rule } from '../testing/ruleWorld';
import { CountedGroups, takeOffSummary } from './takeOff';
import type { CountedEmail } from './takeOff';
import type { Difference, Standing, TrialSummary } from './trial';
import { compareDecision, TrialCount } from './trial';

const ADDRESSES = [
  'ida@harbour.example',
  'jo@harbour.example',
  'lea@dredge.example',
  'nil@fish.example',
  'info@fish.example',
  'ed@press.example',
];

const mail = fc.record({
  sent: fc.boolean(),
  who: fc.constantFrom(...ADDRESSES),
  cc: fc.subarray(ADDRESSES, { maxLength: 2 }),
  mailClass: fc.constantFrom('person' as const, 'newsletter' as const),
});
const policy = fc.record({
  scope: fc.constantFrom('external' as const, 'known' as const, 'byHand' as const),
  people: fc.constantFrom('contact' as const, 'lead' as const, 'nothing' as const),
  level: fc.constantFrom('owner' as const, 'everyone' as const),
  out: fc.option(fc.constantFrom('press.example', 'fish.example')),
});
type Mail = typeof mail extends fc.Arbitrary<infer T> ? T : never;
type Policy = typeof policy extends fc.Arbitrary<infer T> ? T : never;

function apply(rulebook: Rulebook, to: Policy): void {
  rulebook.takeIn.scope = to.scope;
  Object.assign(rulebook.create, { people: to.people, after: 'firstEmail', accounts: true });
  rulebook.share.level = to.level;
  if (to.out === null) return;
  const when = { fact: 'participant', which: 'any', test: { is: 'domain', value: to.out } } as const;
  rulebook.keepOut.rules = [rule('keepOut', when, { do: 'keepOut' }, { id: 'out' })];
}

function decidedBy({ sent, who, cc, mailClass }: Mail, by: Policy): Decision {
  const around = sent ? { from: OUR, to: [who] } : { from: who, to: [OUR] };
  return decided({ ...around, cc: cc.filter((value) => value !== who), mailClass }, (rulebook) => apply(rulebook, by));
}

/** What would stand if the decision had been carried out: records that it created have lasting numbers, never provisional ones. */
function standingOf(decision: Decision): Standing {
  return {
    outcome: decision.outcome,
    visibility: visibilityKey(decision),
    filings: decision.filings.map((filing) => `${filing.kind}:${filing.id < 0 ? 1000 - filing.id : filing.id}`),
    steps: decision.docket,
  };
}

interface Counted {
  id: number;
  before: Standing;
  after: Decision;
  difference: Difference | null;
}

function summaryOf(all: readonly Counted[]): TrialSummary {
  const count = new TrialCount((kind, name) => (kind === 'contact' ? name : null));
  for (const { before, after, difference } of all) count.add(before, after, difference);
  return structuredClone(count.result());
}

/** The numbers with what would be created in one order: nothing here remembers that an email before created the same. */
function inOrder(summary: TrialSummary): TrialSummary {
  return {
    ...summary,
    created: [...summary.created].sort((first, second) => (first.kind + first.via < second.kind + second.via ? -1 : 1)),
  };
}

describe('the numbers of a trial', () => {
  test('without some of its emails are those of a trial that never met them', () => {
    fc.assert(
      fc.property(
        fc.array(mail, { minLength: 1, maxLength: 12 }),
        policy,
        policy,
        fc.func(fc.boolean()),
        (mails, live, draft, isSealed) => {
          const all = mails.map((email, id): Counted => {
            const before = standingOf(decidedBy(email, live));
            const after = decidedBy(email, draft);
            return { id, before, after, difference: compareDecision(before, after) };
          });
          const sealed = all.filter(({ id }) => isSealed(id));
          const groups = new CountedGroups();
          for (const { id, after, difference } of all)
            if (difference === null) groups.add(id, after.outcome, after.direction, after.docket);
          const taken = sealed.map(({ id, before, after, difference }): CountedEmail => {
            if (difference)
              return {
                outcomeBefore: before.outcome,
                outcomeAfter: after.outcome,
                direction: after.direction,
                docket: after.docket,
                difference,
              };
            const group = groups.all().find((item) => item.emailIds.includes(id));
            if (!group) throw new Error('It was counted, and is in no group.');
            const docket = group.steps.map((entry) => ({ ...entry, evidence: [] }));
            return {
              outcomeBefore: group.outcome,
              outcomeAfter: group.outcome ?? 'unfiled',
              direction: group.direction,
              docket,
              difference: null,
            };
          });
          const whole = summaryOf(all);
          const untouched = structuredClone(whole);
          expect(inOrder(takeOffSummary(whole, taken))).toEqual(inOrder(summaryOf(all.filter((counted) => !sealed.includes(counted)))));
          expect(whole).toEqual(untouched);
        },
      ),
    );
  });

  test('say for an email what is won, lost, newly seen and at which step it parts', () => {
    const cautious: Policy = { scope: 'byHand', people: 'nothing', level: 'owner', out: null };
    const open: Policy = { scope: 'external', people: 'nothing', level: 'everyone', out: null };
    const item: Mail = { sent: false, who: 'ida@harbour.example', cc: [], mailClass: 'person' };
    const [narrow, wide] = [decidedBy(item, cautious), decidedBy(item, open)];
    expect(compareDecision(standingOf(narrow), wide)).toEqual({
      outcomeBefore: 'unfiled',
      outcomeAfter: 'filed',
      visibilityBefore: 'owner',
      visibilityAfter: 'everyone',
      seen: 'newly',
      step: 'takeIn',
      won: ['contact:1', 'account:10'],
      lost: [],
    });
    expect(compareDecision(standingOf(wide), narrow)).toMatchObject({ seen: 'no longer', won: [], lost: ['contact:1', 'account:10'] });
    expect(compareDecision(standingOf(wide), wide)).toBeNull();
  });
});
