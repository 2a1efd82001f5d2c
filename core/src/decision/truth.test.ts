import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { ConversationMemory, DecisionFacts } from '../facts/types';
import { NO_MEMORY } from '../facts/types';
import type { AccountRecord, DealRecord, PersonRecord } from '../records/directory';
import { Directory } from '../records/directory';
import { compileRulebook } from '../rulebook/compile';
import { cautiousRulebook } from '../rulebook/schema';
import { decide, externalParticipants } from './decide';
import { remember } from './memory';
import { PLAIN_ACCOUNT, PLAIN_DEAL, PLAIN_FACTS } from './plainFacts';
import type { Decision, Evidence } from './types';
import { wordPairsOf } from './wordPairs';
import { untrue } from '../testing/truths';

const DAY = 86_400_000;
const NOW = Date.UTC(2026, 4, 4);

const DOMAINS = [
  'harbour-oriel.example',
  'reef-farms.example',
  'group.example',
  'freemail.example',
  'new-place.example',
  'harbour-oriol.example',
];

const LOCALS = ['ida.brandt', 'jo', 'lea', 'kim'];
const NAMES = ['Tide gauges', 'Wave buoys', 'Mast renewal', 'Lock telemetry', 'Spare parts'];

const ACCOUNTS: readonly AccountRecord[] = [
  { ...PLAIN_ACCOUNT, id: 10, name: 'Harbour Oriel', domains: ['harbour-oriel.example'] },
  { ...PLAIN_ACCOUNT, id: 11, name: 'Reef Farms', domains: ['reef-farms.example'] },
  { ...PLAIN_ACCOUNT, id: 12, name: 'Group North', domains: ['group.example'] },
  { ...PLAIN_ACCOUNT, id: 13, name: 'Group South', domains: ['group.example'] },
];

const accountAt = (domain: string, nth: number): number | null =>
  ({ 'harbour-oriel.example': 10, 'reef-farms.example': 11, 'group.example': 12 + (nth % 2) })[domain] ?? null;

const person = fc
  .record({ local: fc.constantFrom(...LOCALS), domain: fc.constantFrom(...DOMAINS.slice(0, 4)), withAccount: fc.boolean(), nth: fc.nat(1) })
  .map(({ local, domain, withAccount, nth }) => ({
    address: `${local}@${domain}`,
    accountId: withAccount ? accountAt(domain, nth) : null,
  }));

const dealDrawn = fc.record({
  name: fc.constantFrom(...NAMES),
  account: fc.constantFrom(10, 11, 12, 13, null),
  people: fc.uniqueArray(fc.nat(5), { maxLength: 3 }),
  opened: fc.option(fc.integer({ min: -120, max: 200 })),
  closed: fc.option(fc.integer({ min: 0, max: 100 })),
});

const emailDrawn = fc.record({
  conversation: fc.nat(2),
  from: fc.nat(7),
  to: fc.uniqueArray(fc.nat(7), { maxLength: 3 }),
  sent: fc.boolean(),
  stranger: fc.option(fc.tuple(fc.constantFrom(...LOCALS), fc.constantFrom(...DOMAINS))),
  subject: fc.constantFrom('Hello', 'Re: Hello', 'Visit', 'Re: Visit'),
  says: fc.constantFrom('nothing', 'nothing', 'code in subject', 'name in subject', 'code in text', 'name in text', 'number', 'file'),
  deal: fc.nat(7),
  gap: fc.integer({ min: 1, max: 70 }),
});

const world = fc.record({
  people: fc.uniqueArray(person, { minLength: 1, maxLength: 6, selector: ({ address }) => address }),
  deals: fc.array(dealDrawn, { maxLength: 6 }),
  emails: fc.array(emailDrawn, { minLength: 1, maxLength: 8 }),
  how: fc.constantFrom('scored' as const, 'certain' as const),
});

type Drawn = typeof world extends fc.Arbitrary<infer T> ? T : never;

const dayAt = (ago: number): number => NOW - ago * DAY;

/** Decides the emails of a world in order, each remembered for the next, and tells what their decisions say that is not true. */
function untruths(drawn: Drawn): string[] {
  const people: PersonRecord[] = drawn.people.map(({ address, accountId }, at) => ({
    kind: 'contact',
    id: at + 1,
    name: `Person ${at + 1}`,
    accountId,
    addresses: [address],
    originEmailId: null,
  }));
  const deals: DealRecord[] = drawn.deals.map(({ name, account, people: on, opened, closed }, at) => ({
    ...PLAIN_DEAL,
    id: at + 1,
    name,
    code: `QH-20${at + 1}7`,
    accountId: account,
    open: closed === null,
    closedAt: closed === null ? null : dayAt(closed),
    openedAt: opened === null ? null : Math.min(dayAt(opened), closed === null ? Infinity : dayAt(closed) - DAY),
    people: on.filter((nth) => nth < people.length).map((nth) => `contact:${nth + 1}`),
    activity: [],
  }));
  const rulebook = cautiousRulebook(['quillmere.example']);
  rulebook.match.deal = drawn.how;
  Object.assign(rulebook.create, { people: 'contact', after: 'firstEmail', accounts: true });
  const compiled = compileRulebook(rulebook, { teamAddresses: [], publicProviders: new Set(['freemail.example']) });
  const directory = new Directory({ people, accounts: ACCOUNTS, deals });
  const memories = new Map<number, ConversationMemory>();
  const accounts = [...ACCOUNTS];
  const wrong: string[] = [];
  let at = dayAt(150);
  let lastId = 0;
  drawn.emails.forEach((item, nth) => {
    at += item.gap * (DAY / 2);
    const facts = { ...factsOf(item, drawn, deals), id: 1000 + nth, at };
    const memory = memories.get(item.conversation) ?? NO_MEMORY;
    const known = { people: [...people], accounts: [...accounts] };
    const activity = new Map(deals.map((it) => [it.id, [...it.activity]]));
    const decision = decide(facts, compiled, directory, memory, { next: () => (lastId -= 1) });
    const externals = externalParticipants(facts.participants, compiled).map(({ address }) => address);
    const told = {
      facts,
      ...known,
      deals: deals.map((it) => ({ ...it, activity: activity.get(it.id) ?? [] })),
      externals,
      memory,
      decision,
    };
    for (const entry of decision.docket) for (const evidence of entry.evidence) wrong.push(...untrue(evidence, told));
    for (const { kind, address, id, name, accountId, domain } of decision.creations)
      if (kind === 'account') accounts.push({ ...PLAIN_ACCOUNT, id, name, domains: [domain ?? ''] });
      else if (address !== null) people.push({ kind, id, name, accountId, addresses: [address], originEmailId: facts.id });
    memories.set(item.conversation, remember(memory, decision, facts));
  });
  return wrong;
}

function factsOf(item: Drawn['emails'][number], { people }: Drawn, deals: readonly DealRecord[]): Omit<DecisionFacts, 'id' | 'at'> {
  const US = 'tomas@quillmere.example';
  const addressAt = (nth: number): string => people[nth % people.length]?.address ?? US;
  const others = [...item.to.map(addressAt), ...(item.stranger ? [item.stranger.join('@')] : [])];
  const [from, to] = item.sent ? [US, [addressAt(item.from), ...others]] : [addressAt(item.from), [US, ...others]];
  const part = (role: 'from' | 'to') => (address: string) => ({ role, address, domain: address.slice(address.indexOf('@') + 1), name: '' });
  const deal = deals.length === 0 ? undefined : deals[item.deal % deals.length];
  const says = deal ? item.says : 'nothing';
  const number = /\d+/.exec(deal?.code ?? '')?.[0] ?? '';
  const subject = { 'code in subject': `${item.subject} ${deal?.code}`, 'name in subject': `${item.subject}: ${deal?.name}` }[
    says as string
  ];
  return {
    ...PLAIN_FACTS,
    subject: subject ?? item.subject,
    codes: says === 'code in text' ? [`ABOUT ${deal?.code}`] : says === 'number' ? [`YOUR OFFER ${number}`] : [],
    wordPairs: says === 'name in text' ? wordPairsOf(`It is about the ${deal?.name}.`) : '',
    attachments: says === 'file' ? [`${deal?.code}.pdf`] : [],
    participants: [part('from')(from), ...[...new Set(to)].map(part('to'))],
  };
}

test('whatever the mail and the records, all that decisions say is true of them', () => {
  fc.assert(
    fc.property(world, (drawn) => {
      expect(untruths(drawn)).toEqual([]);
    }),
    { numRuns: 1000 },
  );
});

test('the check finds what is not true', () => {
  const facts: DecisionFacts = { ...PLAIN_FACTS, id: 1, at: NOW, participants: [] };
  const deals = [
    { ...PLAIN_DEAL, id: 1, name: 'Tide gauges', people: ['contact:1'] },
    { ...PLAIN_DEAL, id: 2, name: 'Wave buoys', people: ['contact:1'] },
  ];
  const people: PersonRecord[] = [
    { kind: 'contact', id: 1, name: 'Ida', accountId: null, addresses: ['ida@x.example'], originEmailId: null },
  ];
  const decision: Decision = { ...({} as Decision), filings: [], creations: [] };
  const told = { facts, people, accounts: ACCOUNTS, deals, externals: ['ida@x.example'], memory: NO_MEMORY, decision };
  const only: Evidence = { fact: 'deal', id: 1, name: 'Tide gauges', by: 'only open', via: '' };
  expect(untrue(only, told)).toEqual([expect.stringContaining('the only one that was open')]);
  expect(untrue({ ...only, closedAt: NOW - DAY }, { ...told, deals: deals.slice(0, 1) })).toHaveLength(2);
});
