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

const DAY = 86_400_000;
const NOW = Date.UTC(2026, 4, 4);
const LEAD = 90;
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

/** All that a decision may speak of, to hold its words against. */
interface Told {
  facts: DecisionFacts;
  people: readonly PersonRecord[];
  accounts: readonly AccountRecord[];
  deals: readonly DealRecord[];
  externals: readonly string[];
  memory: ConversationMemory;
  decision: Decision;
}

const dayAt = (ago: number): number => NOW - ago * DAY;
const isOpenAt = ({ open, closedAt, openedAt }: DealRecord, at: number): boolean =>
  (open || (closedAt !== null && closedAt >= at)) && (openedAt === null || openedAt <= at);
const mayBeMeant = ({ open, closedAt, openedAt }: DealRecord, at: number): boolean =>
  (open || (closedAt !== null && closedAt >= at)) && (openedAt === null || openedAt - LEAD * DAY <= at);

/** Each claim of one piece of evidence, held against the world as it was made. @returns what is not true */
function untrue(evidence: Evidence, { facts, people, accounts, deals, externals, memory, decision }: Told): string[] {
  const wrong: string[] = [];
  const hold = (claim: boolean, what: string): void => void (claim || wrong.push(`${what}: ${JSON.stringify(evidence)}`));
  const present = people.filter((it) => it.addresses.some((address) => externals.includes(address)));
  const isTheirs = (it: DealRecord): boolean => present.some((one) => it.people.includes(`${one.kind}:${one.id}`));
  const text = facts.subject.toLowerCase();
  const openOf = (list: readonly { id: number }[]): boolean =>
    list.every(({ id }) => deals.some((it) => it.id === id && mayBeMeant(it, facts.at)));
  switch (evidence.fact) {
    case 'direction':
      hold(evidence.external === externals.length, 'so many external');
      break;
    case 'person': {
      const known = people.find((it) => it.id === evidence.id && it.kind === evidence.kind);
      hold(known?.name === evidence.name && known.addresses.includes(evidence.address), 'that person has that address');
      hold(externals.includes(evidence.address), 'takes part');
      break;
    }
    case 'unknown':
      hold(!people.some((it) => it.addresses.includes(evidence.address)), 'is in no record');
      break;
    case 'account': {
      const known = accounts.find((it) => it.id === evidence.id);
      hold(known?.name === evidence.name, 'the account has that name');
      if (evidence.by === 'person')
        hold(
          people.some((it) => it.addresses.includes(evidence.via) && it.accountId === evidence.id),
          'the person is with it',
        );
      if (evidence.by === 'domain') hold(known?.domains.includes(evidence.via) === true, 'the domain is its');
      break;
    }
    case 'shared domain':
      hold(
        evidence.candidates.every(({ id }) => accounts.some((it) => it.id === id && it.domains.includes(evidence.domain))),
        'shared',
      );
      hold(evidence.candidates.length > 1, 'by several');
      break;
    case 'deal': {
      const known = deals.find((it) => it.id === evidence.id);
      if (!known) return [`no such deal: ${JSON.stringify(evidence)}`];
      hold(known.name === evidence.name, 'it has that name');
      const closed = !known.open && known.closedAt !== null && known.closedAt < facts.at;
      hold((evidence.closedAt !== undefined) === closed, 'closed before the email, and said so');
      if (evidence.closedAt !== undefined) hold(evidence.closedAt === known.closedAt, 'closed then');
      const later = !closed && known.openedAt !== null && known.openedAt > facts.at;
      hold((evidence.openedAt !== undefined) === later, 'opened after the email, and said so');
      if (evidence.by === 'only open') {
        hold(isTheirs(known), 'of these people');
        const rivals = deals.filter((it) => it !== known && isTheirs(it) && isOpenAt(it, facts.at));
        if (evidence.via === '') hold(rivals.length === 0, 'the only one that was open');
        if (later)
          hold(!deals.some((it) => it !== known && isTheirs(it) && mayBeMeant(it, facts.at)) || evidence.via !== '', 'the only one meant');
      }
      if (evidence.by === 'name')
        hold(
          evidence.via
            .toLowerCase()
            .split(' ')
            .every((word) => text.includes(word)),
          'the subject names it',
        );
      if (evidence.by === 'text')
        hold(
          known.name
            .toLowerCase()
            .split(' ')
            .join(' ')
            .includes(evidence.via.split(' ')[0] ?? '-'),
          'named in the text',
        );
      if (evidence.by === 'code') {
        const number = /\d+/.exec(known.code ?? '')?.[0] ?? '-';
        const said = [facts.subject, ...facts.codes, ...facts.attachments].some((part) => part.includes(number));
        hold(said && evidence.via.includes(number), 'its code is written there');
      }
      if (evidence.by === 'conversation')
        hold(
          memory.deals.some(({ dealId }) => dealId === known.id),
          'the conversation was filed there',
        );
      break;
    }
    case 'new matter':
      hold(
        memory.deals.some(({ dealId }) => dealId === evidence.id),
        'the conversation was filed there',
      );
      if (evidence.because === 'closed')
        hold(
          deals.some((it) => it.id === evidence.id && !it.open && (it.closedAt ?? 0) < facts.at),
          'closed',
        );
      if (evidence.because === 'rested') hold(evidence.days === Math.floor((facts.at - (memory.lastAt ?? 0)) / DAY), 'rested so long');
      break;
    case 'open deals':
      hold(
        openOf(evidence.candidates) && evidence.candidates.every(({ id }) => deals.some((it) => it.id === id && isTheirs(it))),
        'open, theirs',
      );
      hold(evidence.candidates.length > 1, 'several');
      break;
    case 'deal scores':
      for (const score of evidence.scores) {
        const known = deals.find((it) => it.id === score.id);
        hold(known !== undefined && known.people.length === score.of, 'so many people');
        hold(present.filter((it) => known?.people.includes(`${it.kind}:${it.id}`)).length === score.people, 'so many of them take part');
        hold(
          score.words.every((word) => text.includes(word.toLowerCase())),
          'the words are in the subject',
        );
        const last = known?.activity.filter((at) => at <= facts.at).at(-1);
        if (score.days !== null) hold(last !== undefined && Math.abs(score.days - (facts.at - last) / DAY) <= 1, 'so many days');
      }
      break;
    case 'several customers':
      hold(
        evidence.accounts === new Set(decision.filings.filter(({ kind }) => kind === 'account').map(({ id }) => id)).size,
        'so many accounts',
      );
      break;
    case 'created':
      hold(
        decision.creations.some(({ kind, id, name }) => kind === evidence.kind && id === evidence.id && name === evidence.name),
        'created',
      );
      break;
    case 'not created':
      hold(externals.includes(evidence.address) && !decision.creations.some(({ address }) => address === evidence.address), 'not created');
      if (evidence.because === 'misspelled')
        hold(evidence.like?.kind === 'account' && evidence.address.endsWith('@harbour-oriol.example'), 'near');
      break;
    case 'scope':
      hold(
        evidence.known.every((address) => people.some((it) => it.addresses.includes(address))),
        'known',
      );
      break;
    default:
      break;
  }
  return wrong;
}

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
