import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { PersonRecord } from '../records/directory';
import { Directory } from '../records/directory';
import type { Participant } from '../emails/emailFacts';
import { MAIL_CLASSES } from '../emails/mailClass';
import { compileRulebook } from '../rulebook/compile';
import type { Rulebook } from '../rulebook/schema';
import { cautiousRulebook } from '../rulebook/schema';
import { decide } from './decide';
import { PLAIN_ACCOUNT, PLAIN_DEAL, PLAIN_FACTS } from './plainFacts';
import type { Decision } from './types';
import type { DecisionFacts } from '../facts/types';
import { NO_MEMORY } from '../facts/types';

const DOMAINS = [
  'quillmere.example',
  'harbour.example',
  'mail.harbour.example',
  'group.example',
  'freemail.example',
  'law.example',
  'nobody.example',
];
const LOCALS = ['ida', 'jo', 'info', 'no-reply', 'new.person'];

const participant = fc.record({
  role: fc.constantFrom('to' as const, 'cc' as const, 'bcc' as const),
  local: fc.constantFrom(...LOCALS),
  domain: fc.constantFrom(...DOMAINS),
});
const email = fc.record({
  sender: participant,
  others: fc.array(participant, { minLength: 1, maxLength: 7 }),
  mailClass: fc.constantFrom(...MAIL_CLASSES),
  subject: fc.constantFrom('Gauge', 'Re: QH-2001', ''),
});
const policy = fc.record({
  out: fc.subarray(DOMAINS.slice(1)),
  effect: fc.constantFrom('ignore' as const, 'keepOut' as const),
  scope: fc.constantFrom('external' as const, 'known' as const, 'answers' as const, 'byHand' as const),
  people: fc.constantFrom('contact' as const, 'lead' as const, 'nothing' as const),
  after: fc.constantFrom('weWrote' as const, 'firstEmail' as const),
  level: fc.constantFrom('owner' as const, 'everyone' as const),
});

type Email = typeof email extends fc.Arbitrary<infer T> ? T : never;
type Policy = typeof policy extends fc.Arbitrary<infer T> ? T : never;

function rulebookOf(item: Policy): Rulebook {
  const rulebook = cautiousRulebook(['quillmere.example']);
  rulebook.keepOut.entries = item.out.map((value) => ({
    id: `out-${value}`,
    kind: 'domain',
    value,
    exactly: false,
    effect: item.effect,
    note: '',
    addedBy: '',
    addedAt: '',
  }));
  rulebook.takeIn.scope = item.scope;
  Object.assign(rulebook.create, { people: item.people, after: item.after, accounts: true });
  rulebook.share.level = item.level;
  return rulebook;
}

function directory(): Directory {
  const person = (id: number, address: string, accountId: number | null): PersonRecord => ({
    kind: 'contact',
    id,
    name: address,
    accountId,
    addresses: [address],
    originEmailId: null,
  });
  return new Directory({
    people: [person(1, 'ida@harbour.example', 10), person(2, 'jo@freemail.example', null), person(3, 'ida@law.example', 11)],
    accounts: [
      { id: 10, name: 'Harbour', domains: ['harbour.example'], ...PLAIN_ACCOUNT },
      { id: 11, name: 'North', domains: ['group.example'], ...PLAIN_ACCOUNT },
      { id: 12, name: 'South', domains: ['group.example'], ...PLAIN_ACCOUNT },
    ],
    deals: [{ ...PLAIN_DEAL, id: 20, name: 'Gauges', code: 'QH-2001', accountId: 10, people: ['contact:1'] }],
  });
}

function decided(item: Email, by: Policy, reverse = false): Decision {
  const asParticipant = ({ role, local, domain }: Email['sender'], sender: boolean): Participant => ({
    role: sender ? 'from' : role,
    address: `${local}@${domain}`,
    domain,
    name: '',
  });
  const others = item.others.map((other) => asParticipant(other, false));
  const facts: DecisionFacts = {
    ...PLAIN_FACTS,
    id: 500,
    at: 0,
    subject: item.subject,
    mailClass: item.mailClass,
    participants: [asParticipant(item.sender, true), ...(reverse ? others.reverse() : others)],
  };
  let last = 0;
  return decide(
    facts,
    compileRulebook(rulebookOf(by), { teamAddresses: [], publicProviders: new Set(['freemail.example']) }),
    directory(),
    NO_MEMORY,
    { next: () => (last -= 1) },
  );
}

const keys = (decision: Decision): string[] =>
  decision.filings
    .filter((filing) => filing.id > 0)
    .map((filing) => `${filing.kind} ${filing.id}`)
    .sort();

describe('whatever the email and the rulebook', () => {
  const holds = (property: (item: Email, by: Policy, decision: Decision) => void): void =>
    fc.assert(
      fc.property(email, policy, (item, by) => property(item, by, decided(item, by))),
      { numRuns: 500 },
    );

  test('an email is internal when, and only when, no one external takes part', () => {
    holds((_, __, decision) => expect(decision.direction === 'internal').toBe(decision.externals.length === 0));
  });

  test('what is kept out or unfiled stands under no record and is seen by its owner only', () => {
    holds((_, __, decision) => {
      if (decision.outcome !== 'kept out' && decision.outcome !== 'unfiled') return;
      expect([decision.filings, decision.creations, decision.visibility]).toEqual([[], [], 'owner']);
    });
  });

  test('what is filed stands under a record, and what waits asks something', () => {
    holds((_, __, decision) => {
      if (decision.outcome === 'filed') expect(decision.filings.length).toBeGreaterThan(0);
      expect(decision.outcome === 'waiting').toBe(decision.questions.length > 0);
    });
  });

  test('no one is created who is ours, excluded, a role or a machine', () => {
    holds((_, by, decision) => {
      for (const creation of decision.creations) {
        if (creation.address === null) continue;
        expect(creation.address).not.toMatch(/@quillmere\.example$|^info@|^no-reply@/);
        expect(by.out.some((domain) => creation.address?.endsWith(`@${domain}`))).toBe(false);
      }
      expect(decision.creations.some((creation) => creation.kind === 'account' && creation.domain === 'freemail.example')).toBe(false);
    });
  });

  test('an excluded person is filed under nothing of their own', () => {
    holds((_, by, decision) => {
      if (by.out.includes('law.example')) expect(keys(decision)).not.toContain('contact 3');
    });
  });

  test('the order of the recipients does not matter', () => {
    fc.assert(
      fc.property(email, policy, (item, by) => {
        const there = decided(item, by);
        const back = decided(item, by, true);
        expect([back.outcome, back.visibility, keys(back), [...back.externals].sort()]).toEqual([
          there.outcome,
          there.visibility,
          keys(there),
          [...there.externals].sort(),
        ]);
      }),
      { numRuns: 300 },
    );
  });

  test('taking an exclusion away never keeps an email out', () => {
    fc.assert(
      fc.property(email, policy, fc.nat(), (item, by, at) => {
        if (by.out.length === 0 || decided(item, by).outcome === 'kept out') return;
        const fewer = { ...by, out: by.out.filter((_, position) => position !== at % by.out.length) };
        expect(decided(item, fewer).outcome).not.toBe('kept out');
      }),
      { numRuns: 300 },
    );
  });

  test('every step up to the last that spoke is in the docket, in order', () => {
    holds((_, __, decision) => {
      const steps = decision.docket.map((entry) => entry.step);
      const whole = ['keepOut', 'takeIn', 'match', 'create', 'share'];
      expect(steps).toEqual(decision.outcome === 'kept out' ? ['keepOut'] : steps.length === 3 ? ['keepOut', 'takeIn', 'share'] : whole);
    });
  });

  test('the same inputs give the same decision', () => {
    holds((item, by, decision) => expect(decided(item, by)).toEqual(decision));
  });
});
