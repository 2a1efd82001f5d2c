import { docketSentences } from '../docketSentences';
import { weighPins } from '../pins';
import type { Decision, Question } from '../types';
import type { Pin } from '../../facts/types';
import { mayConcern, wasOpen } from '../../records/dealTimes';
import type { DealRecord, PersonRecord } from '../../records/directory';
import type { RecordKind } from '../../facts/recordKind';
import { ruleVariants } from './alternatives';
import type { Variant } from './alternatives';
import type { Situation } from './situation';
import { decideIn } from './situation';

/** Why an email does not stand under a record, and what would put it there. */
export interface WhyNot {
  /** It does stand there. */
  filed: boolean;
  /** Sentences, in order of the steps. */
  reasons: string[];
  /** What would put it there, each in words behind “if”; the simplest first. */
  changes: string[];
}

export interface Target {
  kind: RecordKind;
  id: number;
  name: string;
}

const MOST_CHANGES = 6;

/**
 * Why an email is not filed under the record. The reasons follow the steps; each change was tried by deciding the email again with it.
 *
 * @param situation its records include the one asked about
 */
export function whyNot(situation: Situation, target: Target): WhyNot {
  const now = decideIn(situation);
  if (stands(now, target)) {
    const rule = now.filings.find((filing) => filing.kind === target.kind && filing.id === target.id)?.rule ?? '';
    const said = docketSentences(now.docket).flatMap((entry) => entry.because.filter((value) => value.includes(target.name)));
    return { filed: true, reasons: said.length > 0 ? said : [`It is filed there by ${rule}.`], changes: [] };
  }
  return { filed: false, reasons: reasons(situation, now, target), changes: changes(situation, now, target) };
}

const stands = (decision: Decision, { kind, id }: Target): boolean =>
  decision.filings.some((filing) => filing.kind === kind && filing.id === id);

function reasons(situation: Situation, now: Decision, target: Target): string[] {
  const [first, second] = docketSentences(now.docket);
  if (now.outcome === 'kept out') return [`It was kept out. Kept-out mail is not filed. ${first?.because.join(' ') ?? ''}`.trim()];
  if (now.docket[1]?.verdict === 'left to its owner')
    return [`It was not taken in. Only mail that is taken in is filed. ${second?.because.join(' ') ?? ''}`.trim()];
  if (now.outcome === 'sealed') return ['It is sealed. Sealed mail is not filed.'];
  const byHand = pinReasons(situation, now, target);
  if (byHand.length > 0) return byHand;
  const ignored = now.docket[0]?.evidence.length ? (first?.because ?? []) : [];
  const own =
    target.kind === 'account' ? accountReasons(situation, target) : target.kind === 'deal' ? dealReasons(situation, now, target) : [];
  const person = target.kind === 'contact' || target.kind === 'lead' ? personReasons(situation, now, target) : [];
  const waiting = now.questions.filter(
    (question) => question.candidates.some((it) => it.id === target.id) && question.kind === target.kind,
  );
  return [...person, ...own, ...waiting.map(asksWhich), ...ignored];
}

/** What people said by hand that keeps it off the record. */
function pinReasons({ facts }: Situation, now: Decision, target: Target): string[] {
  const pins = weighPins(facts);
  const said = docketSentences(now.docket).flatMap((entry) => entry.because);
  const words = (does: Pin['does'], about: (pin: Pin) => boolean): string[] =>
    facts.pins.flatMap((pin) => (pin.does === does && about(pin) ? said.filter((value) => value.startsWith(`${pin.by} `)) : []));
  if (pins.isOff(target.kind, target.id))
    return [...new Set(words('takeOff', (pin) => pin.kind === null || pin.kind === target.kind)), 'Rules never overturn that.'];
  if (target.kind === 'deal' && pins.dealIsSaid)
    return [...new Set(words('file', (pin) => pin.kind === 'deal')), 'No other deal is looked for then.'];
  return [];
}

function asksWhich(question: Question): string {
  return `It is one of ${question.candidates.length} candidates, and no rule tells which: the email waits for a person.`;
}

function personReasons({ facts, records, rulebook }: Situation, now: Decision, target: Target): string[] {
  const person = records.people.find((record) => record.kind === target.kind && record.id === target.id);
  if (!person) return [`${target.name} has no address.`];
  const inIt = new Set(facts.participants.map((participant) => rulebook.personKey(participant.address)));
  const present = person.addresses.filter((address) => inIt.has(address));
  if (present.length === 0) return [`None of the addresses of ${target.name} takes part: ${person.addresses.join(', ')}.`];
  return now.externals.some((external) => present.includes(external)) ? [] : [`${present.join(', ')} takes part, but counts as one of us.`];
}

function accountReasons({ facts, records, rulebook }: Situation, target: Target): string[] {
  const account = records.accounts.find((record) => record.id === target.id);
  const people = peopleIn(records.people, facts.participants, rulebook.personKey);
  const elsewhere = people.filter((person) => person.accountId !== null && person.accountId !== target.id);
  const nameOf = (id: number | null): string => records.accounts.find((record) => record.id === id)?.name ?? 'another account';
  return [
    ...(people.some((person) => person.accountId === target.id) ? [] : [`None of the people who take part is with ${target.name}.`]),
    ...elsewhere.slice(0, 3).map((record) => `${record.name} is with ${nameOf(record.accountId)}.`),
    ...(account && account.domains.length > 0
      ? [`Its domains are ${account.domains.join(', ')}.`]
      : [`${target.name} has no domain, so no one is recognised by it.`]),
  ];
}

function dealReasons({ facts, records, rulebook, memory }: Situation, now: Decision, target: Target): string[] {
  const deal = records.deals.find((record) => record.id === target.id);
  if (!deal) return [];
  const people = peopleIn(records.people, facts.participants, rulebook.personKey).filter((person) =>
    deal.people.includes(`${person.kind}:${person.id}`),
  );
  const other = now.filings.find((filing) => filing.kind === 'deal');
  const why = docketSentences(now.docket)[2]?.because.filter((value) => /deal|clearly the best|names/.test(value)) ?? [];
  return [
    people.length === 0
      ? deal.people.length === 0
        ? 'No one is on it, so no email leads to it by its people.'
        : `None of its people takes part. It has ${deal.people.length}.`
      : `${people.length} of its ${deal.people.length} people ${people.length === 1 ? 'takes' : 'take'} part: ${people.map((person) => person.name).join(', ')}.`,
    ...(wasOpen(deal, facts.at) ? [] : ['It was not open when the email was sent.']),
    ...(!mayConcern(deal, facts.at, rulebook.source.match.leadDays)
      ? [`It was opened more than ${rulebook.source.match.leadDays} days after the email was sent.`]
      : []),
    ...(memory.deals.some(({ dealId }) => dealId !== deal.id) && memory.deals.at(-1)?.dealId !== deal.id
      ? ['The conversation is filed under another deal, and answers follow it.']
      : []),
    ...(other ? why : []),
  ];
}

function peopleIn(
  people: readonly PersonRecord[],
  participants: Situation['facts']['participants'],
  key: (address: string) => string,
): PersonRecord[] {
  const inIt = new Set(participants.map((participant) => key(participant.address)));
  return people.filter((person) => person.addresses.some((address) => inIt.has(address)));
}

/** The changes that alone put the email under the record; where none does, the pairs of a rule's change and a record's. */
function changes(situation: Situation, now: Decision, target: Target): string[] {
  const ofRules = ruleVariants(situation, now);
  const ofRecords = recordVariants(situation, target);
  const works = ({ situation: other }: Variant): boolean => stands(decideIn(other), target);
  const single = [...pinVariants(situation), ...ofRecords, ...ofRules].filter(works);
  if (single.length > 0) return single.slice(0, MOST_CHANGES).map((variant) => variant.words);
  const pairs = ofRules.flatMap((rule) =>
    [...recordVariants(rule.situation, target), ...ruleVariants(rule.situation, decideIn(rule.situation))].map((more) => ({
      words: `${rule.words}, and ${more.words}`,
      situation: more.situation,
    })),
  );
  return pairs
    .filter(works)
    .slice(0, MOST_CHANGES)
    .map((pair) => pair.words);
}

/** Each word that was said by hand, taken back. */
function pinVariants(situation: Situation): Variant[] {
  const { facts } = situation;
  return facts.pins.map((pin) => ({
    words: `what ${pin.by} said by hand on ${new Date(pin.at).toISOString().slice(0, 10)} were undone`,
    situation: { ...situation, facts: { ...facts, pins: facts.pins.filter((item) => item !== pin) } },
  }));
}

/** What could be otherwise about the records and the conversation. */
function recordVariants(situation: Situation, target: Target): Variant[] {
  switch (target.kind) {
    case 'account':
      return accountVariants(situation, target);
    case 'deal':
      return dealVariants(situation, target);
    default:
      return personVariants(situation, target);
  }
}

const withRecords = (situation: Situation, records: Partial<Situation['records']>): Situation => ({
  ...situation,
  records: { ...situation.records, ...records },
});

function outsiders({ facts, rulebook }: Situation): { address: string; domain: string }[] {
  const found = new Map(facts.participants.map((participant) => [rulebook.personKey(participant.address), participant]));
  return [...found]
    .filter(([, participant]) => !rulebook.isOurs(participant.address, participant.domain))
    .map(([address, participant]) => ({ address, domain: participant.domain }));
}

function personVariants(situation: Situation, target: Target): Variant[] {
  const { people } = situation.records;
  const is = (record: PersonRecord): boolean => record.kind === target.kind && record.id === target.id;
  return outsiders(situation).map(({ address }) => ({
    words: `${address} were an address of ${target.name}`,
    situation: withRecords(situation, {
      people: people.map((person) => (is(person) ? { ...person, addresses: [...person.addresses, address] } : person)),
    }),
  }));
}

function accountVariants(situation: Situation, target: Target): Variant[] {
  const { people, accounts } = situation.records;
  const domains = [...new Set(outsiders(situation).map((outsider) => outsider.domain))].filter(
    (value) => !situation.rulebook.isPublicProvider(value),
  );
  const inIt = peopleIn(people, situation.facts.participants, situation.rulebook.personKey);
  return [
    ...inIt.map((person) => ({
      words: `${person.name} were with ${target.name}`,
      situation: withRecords(situation, {
        people: people.map((record) => (record === person ? { ...record, accountId: target.id, formerAccounts: [] } : record)),
      }),
    })),
    ...domains.map((domain) => ({
      words: `${domain} belonged to ${target.name}`,
      situation: withRecords(situation, {
        accounts: accounts.map((account) => (account.id === target.id ? { ...account, domains: [...account.domains, domain] } : account)),
      }),
    })),
  ];
}

function dealVariants(situation: Situation, target: Target): Variant[] {
  const { facts, memory, rulebook } = situation;
  const { people, deals } = situation.records;
  const deal = deals.find((record) => record.id === target.id);
  if (!deal) return [];
  const changed = (change: Partial<DealRecord>): Situation =>
    withRecords(situation, { deals: deals.map((record) => (record === deal ? { ...record, ...change } : record)) });
  const missing = peopleIn(people, facts.participants, rulebook.personKey).filter(
    (person) => !deal.people.includes(`${person.kind}:${person.id}`),
  );
  const rivals = deals.filter((record) => record.id !== deal.id && wasOpen(record, facts.at));
  return [
    ...missing.map((record) => ({
      words: `${record.name} were on the deal`,
      situation: changed({ people: [...deal.people, `${record.kind}:${record.id}`] }),
    })),
    ...(wasOpen(deal, facts.at) ? [] : [{ words: 'the deal had been open then', situation: changed({ open: true }) }]),
    ...(rivals.length > 0 && rivals.length <= 3
      ? [
          {
            words: `${rivals.map((rival) => rival.name).join(' and ')} had not been open then`,
            situation: withRecords(situation, { deals: deals.filter((record) => !rivals.includes(record)) }),
          },
        ]
      : []),
    ...(deal.code === null
      ? []
      : [
          {
            words: `the subject named its code, ${deal.code}`,
            situation: { ...situation, facts: { ...facts, subject: `${facts.subject} ${deal.code}` } },
          },
        ]),
    ...(memory.deals.every(({ dealId }) => dealId === deal.id)
      ? []
      : [{ words: 'the conversation were not filed under another deal', situation: { ...situation, memory: { ...memory, deals: [] } } }]),
    {
      words: 'its conversation was filed under the deal',
      situation: { ...situation, memory: { ...memory, deals: [{ dealId: deal.id, subject: null, parties: null }], filed: true } },
    },
  ];
}
