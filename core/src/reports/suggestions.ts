import { domainOf } from '../address/address';
import { registrableDomain } from '../domain/domain';
import { companyNameFromDomain } from '../person/companyName';
import { nameKey } from '../person/nameKey';
import { isNearDomain, keptKeys, nearKeys } from '../domain/nearDomain';
import { isOneEditApart } from '../text/oneEditApart';
import type { Action, Rule, RuleStop } from '../rulebook/rule';

/** What past mail says of one external domain. */
export interface DomainUse {
  domain: string;
  emails: number;
  sent: number;
  received: number;
  /** Emails that no person wrote. */
  machine: number;
  filed: number;
  waiting: number;
  loose: number;
  keptOut: number;
}

/** An address in mail that is in no record, with the name that it writes under. */
export interface UnknownAddress {
  address: string;
  domain: string;
  name: string;
  emails: number;
}

/** That people put an email from a domain under a record, by their own hand. */
export interface HandFiling {
  domain: string;
  kind: 'account' | 'contact' | 'lead' | 'deal';
  recordId: number;
  recordName: string;
}

/** That people took emails from a domain off records, by their own hand. */
export interface HandRemoval {
  domain: string;
  /** Null: off every record. */
  kind: 'account' | 'contact' | 'lead' | 'deal' | null;
  emails: number;
}

/** What is suggested, and the rule that would do it. */
export interface Suggestion {
  code:
    | 'machine-domain'
    | 'one-sided'
    | 'like-account'
    | 'second-address'
    | 'correspondents'
    | 'filed-by-hand'
    | 'taken-off'
    | 'misspelled'
    | 'renamed'
    | 'form-address';
  /** The domain or address that it is about. */
  about: string;
  /** Why, in a sentence with the numbers. */
  because: string;
  stop: RuleStop;
  /** What would be done. */
  change: SuggestedChange;
  /** Emails that it rests on; the most first. */
  weight: number;
}

/** A rule, or an address of a form, goes into the draft; a domain is added to an account. */
export type SuggestedChange =
  | ({ do: 'rule' } & Pick<Rule<Action<RuleStop>>, 'name' | 'note' | 'when' | 'then'>)
  | { do: 'addDomain'; account: { id: number; name: string }; domain: string }
  | { do: 'addForm'; address: string };

/** An address in From of emails that name in Reply-To whom to answer. */
export interface AnsweredElsewhere {
  address: string;
  emails: number;
  /** Different external addresses in Reply-To. */
  authors: number;
}

/** That people of an account wrote of a new name or address, and of a domain. */
export interface Announcement {
  domain: string;
  accountId: number;
  emails: number;
}

export interface TuningFacts {
  domains: readonly DomainUse[];
  unknown: readonly UnknownAddress[];
  byHand: readonly HandFiling[];
  takenOff: readonly HandRemoval[];
  accounts: readonly { id: number; name: string; domains: readonly string[] }[];
  people: readonly { kind: 'contact' | 'lead'; id: number; name: string; accountId: number | null; addresses: readonly string[] }[];
  answeredElsewhere: readonly AnsweredElsewhere[];
  announced: readonly Announcement[];
  isPublicProvider: (domain: string) => boolean;
}

const FEW = 5;
const MANY = 5;
const HAND_FILINGS = 3;
const MOST_OF_A_KIND = 6;

/** Suggestions computed from past mail and records; each is a rule for the draft. */
export function suggestions(facts: TuningFacts): Suggestion[] {
  const kinds = [
    filedByHand(facts),
    takenOffByHand(facts),
    machineDomains(facts),
    renamedCompanies(facts),
    misspelledDomains(facts),
    formAddresses(facts),
    likeAccounts(facts),
    secondAddresses(facts),
    correspondents(facts),
    oneSided(facts),
  ];
  return kinds.flatMap((found) => found.sort((first, second) => second.weight - first.weight).slice(0, MOST_OF_A_KIND));
}

const atDomain = (value: string): Rule['when'] => ({ fact: 'participant', which: 'any', test: { is: 'domain', value, exactly: false } });

/** Domains from which machines write only, and which come in. */
function machineDomains({ domains }: TuningFacts): Suggestion[] {
  return domains
    .filter((domain) => domain.emails >= FEW && domain.machine === domain.emails && domain.sent === 0 && domain.keptOut < domain.emails)
    .map((domain) => ({
      code: 'machine-domain',
      about: domain.domain,
      because: `All ${domain.emails} emails from ${domain.domain} were written automatics; ${domain.emails - domain.keptOut} of them came in.`,
      stop: 'keepOut',
      change: {
        do: 'rule',
        name: `Machines of ${domain.domain}`,
        note: 'Machines write from there only.',
        when: atDomain(domain.domain),
        then: { do: 'disregard' },
      },
      weight: domain.emails,
    }));
}

/** Domains that write and write, and to which no one of us ever wrote. */
function oneSided({ domains, isPublicProvider }: TuningFacts): Suggestion[] {
  return domains
    .filter(
      (domain) =>
        domain.received >= MANY &&
        domain.machine < domain.emails &&
        domain.sent === 0 &&
        domain.filed === 0 &&
        domain.keptOut === 0 &&
        !isPublicProvider(domain.domain),
    )
    .map((domain) => ({
      code: 'one-sided',
      about: domain.domain,
      because: `${domain.domain} wrote ${domain.received} times; none of us ever wrote there, and none of it is filed.`,
      stop: 'keepOut',
      change: {
        do: 'rule',
        name: `Keep out ${domain.domain}`,
        note: 'They write, and none of us answers.',
        when: atDomain(domain.domain),
        then: { do: 'disregard' },
      },
      weight: domain.received,
    }));
}

/** Unmatched domains that look like those of an account. */
function likeAccounts({ domains, accounts, isPublicProvider }: TuningFacts): Suggestion[] {
  const owned = new Set(accounts.flatMap((account) => account.domains));
  return domains.flatMap((domain): Suggestion[] => {
    const own = registrableDomain(domain.domain);
    if (own === null || owned.has(own) || owned.has(domain.domain) || isPublicProvider(domain.domain) || domain.filed === domain.emails)
      return [];
    const [like, ...others] = accounts.filter((account) => looksLike(own, account));
    if (!like || others.length > 0 || isMisspelled(domain, like)) return [];
    return [
      {
        code: 'like-account',
        about: domain.domain,
        because: `${domain.domain} looks like ${like.name}${like.domains.length > 0 ? ` (${like.domains.join(', ')})` : ''}; ${domain.emails - domain.filed} of its ${domain.emails} emails are unfiled.`,
        stop: 'match',
        change: {
          do: 'rule',
          name: `${domain.domain} is ${like.name}`,
          note: 'Another domain of the same company.',
          when: atDomain(domain.domain),
          then: { do: 'fileUnder', kind: 'account', id: like.id, name: like.name },
        },
        weight: domain.emails - domain.filed,
      },
    ];
  });
}

/** One letter apart from a domain of the account, and nothing ever came from there. */
const isMisspelled = ({ domain, received }: DomainUse, account: TuningFacts['accounts'][number]): boolean =>
  received === 0 && account.domains.some((theirs) => isNearDomain(domain, theirs));

/** Domains to which we only write, one letter apart from an account's. */
function misspelledDomains({ domains, accounts, isPublicProvider }: TuningFacts): Suggestion[] {
  const owned = new Set(accounts.flatMap((account) => account.domains));
  const byKey = new Map<string, TuningFacts['accounts'][number][]>();
  for (const account of accounts)
    for (const key of account.domains.flatMap(keptKeys)) {
      const known = byKey.get(key);
      if (known) known.push(account);
      else byKey.set(key, [account]);
    }
  return domains.flatMap((domain): Suggestion[] => {
    if (domain.received > 0 || owned.has(domain.domain) || isPublicProvider(domain.domain)) return [];
    const near = new Set(nearKeys(domain.domain).flatMap((key) => byKey.get(key) ?? []));
    const [like, ...others] = [...near].filter((account) => isMisspelled(domain, account));
    const meant = like?.domains.find((theirs) => isNearDomain(domain.domain, theirs));
    if (!like || !meant || others.length > 0) return [];
    return [
      {
        code: 'misspelled',
        about: domain.domain,
        because: `${domain.domain} is one letter apart from ${meant} of ${like.name}. ${domain.sent} ${domain.sent === 1 ? 'email' : 'emails'} went there, and none came back.`,
        stop: 'match',
        change: {
          do: 'rule',
          name: `${domain.domain} is misspelled`,
          note: `${meant} was meant.`,
          when: atDomain(domain.domain),
          then: { do: 'fileUnder', kind: 'account', id: like.id, name: like.name },
        },
        weight: domain.sent,
      },
    ];
  });
}

const PEOPLE_THAT_MOVED = 2;

/** New domains of companies on record: the same people write from there, or someone announced it. */
function renamedCompanies({ domains, unknown, people, accounts, announced, isPublicProvider }: TuningFacts): Suggestion[] {
  const owned = new Set(accounts.flatMap((account) => account.domains));
  const nameOf = new Map(accounts.map((account) => [account.id, account.name]));
  const byKey = new Map<string, Set<number>>();
  for (const { name, accountId, addresses } of people)
    for (const address of accountId === null ? [] : addresses) addTo(byKey, personAt(name, address), accountId ?? 0);
  const moved = new Map<string, { people: number; emails: number; account: number }[]>();
  for (const { address, domain, name, emails } of unknown) {
    const own = registrableDomain(domain);
    const [account, ...others] = byKey.get(personAt(name, address)) ?? [];
    if (own === null || owned.has(own) || isPublicProvider(own) || account === undefined || others.length > 0) continue;
    const known = moved.get(own)?.find((item) => item.account === account);
    if (known) Object.assign(known, { people: known.people + 1, emails: known.emails + emails });
    else moved.set(own, [...(moved.get(own) ?? []), { people: 1, emails, account }]);
  }
  const candidates = new Set([...moved.keys(), ...announced.map(({ domain }) => domain)]);
  return [...candidates].flatMap((domain): Suggestion[] => {
    const movers = moved.get(domain) ?? [];
    const said = announced.filter((item) => item.domain === domain);
    const [account, ...others] = new Set([...movers, ...said.map((item) => ({ account: item.accountId }))].map((item) => item.account));
    const name = account === undefined ? undefined : nameOf.get(account);
    const count = movers[0]?.people ?? 0;
    if (account === undefined || name === undefined || others.length > 0 || owned.has(domain) || isPublicProvider(domain)) return [];
    if (count < PEOPLE_THAT_MOVED && said.length === 0) return [];
    const reasons = [
      ...(count > 0
        ? [`${count} ${count === 1 ? 'person' : 'people'} of ${name} now ${count === 1 ? 'writes' : 'write'} from ${domain}`]
        : []),
      ...(said.length > 0 ? [`an email of ${name} announces ${domain}`] : []),
    ].join(', and ');
    return [
      {
        code: 'renamed',
        about: domain,
        because: `${reasons.charAt(0).toUpperCase()}${reasons.slice(1)}. It looks like a new domain of the same company.`,
        stop: 'match',
        change: { do: 'addDomain', account: { id: account, name }, domain },
        weight: Math.max(movers[0]?.emails ?? 0, domains.find((use) => use.domain === domain)?.emails ?? 0),
      },
    ];
  });
}

const personAt = (name: string, address: string): string => `${address.slice(0, address.lastIndexOf('@'))} ${nameKey(name)}`;

function addTo(sets: Map<string, Set<number>>, key: string, value: number): void {
  sets.set(key, new Set([...(sets.get(key) ?? []), value]));
}

const AUTHORS_OF_FORM = 3;

/** Addresses that send what others wrote: each email names another external person in Reply-To. */
function formAddresses({ answeredElsewhere }: TuningFacts): Suggestion[] {
  return answeredElsewhere
    .filter(({ emails, authors }) => authors >= AUTHORS_OF_FORM && authors * 2 >= emails)
    .map(({ address, emails, authors }) => ({
      code: 'form-address',
      about: address,
      because: `${emails} emails from ${address} name ${authors} different people in Reply-To. It looks like a form that visitors fill in.`,
      stop: 'takeIn',
      change: { do: 'addForm', address },
      weight: emails,
    }));
}

function looksLike(domain: string, account: TuningFacts['accounts'][number]): boolean {
  const label = labelOf(domain);
  if (label.length < 4) return false;
  const company = companyNameFromDomain(domain);
  if (company !== null && nameKey(company) === nameKey(account.name)) return true;
  return account.domains.some((value) => {
    const theirs = labelOf(registrableDomain(value) ?? value);
    return (
      theirs === label ||
      (label.length >= 7 && theirs.length >= 7 && isOneEditApart(label, theirs)) ||
      isPartOf(label, theirs) ||
      isPartOf(theirs, label)
    );
  });
}

const labelOf = (domain: string): string => domain.slice(0, domain.indexOf('.')).toLowerCase();
/** `harbour-oriel` and `harbour-oriel-group`: whole words of the one begin the other. */
const isPartOf = (short: string, long: string): boolean => short.length >= 7 && short.includes('-') && long.startsWith(`${short}-`);

/** Unknown addresses that write under the name of one known person, from a provider or from their company. */
function secondAddresses({ unknown, people, isPublicProvider }: TuningFacts): Suggestion[] {
  const byName = new Map<string, TuningFacts['people'][number][]>();
  for (const person of people) byName.set(nameKey(person.name), [...(byName.get(nameKey(person.name)) ?? []), person]);
  return unknown.flatMap((item): Suggestion[] => {
    const key = nameKey(item.name);
    if (!key.includes(' ')) return [];
    const [person, ...others] = byName.get(key) ?? [];
    if (!person || others.length > 0) return [];
    const sameCompany = person.addresses.some((address) => registrableDomain(domainOf(address)) === registrableDomain(item.domain));
    if (!sameCompany && !isPublicProvider(item.domain)) return [];
    return [
      {
        code: 'second-address',
        about: item.address,
        because: `${item.address} writes as ${item.name}, and so does the ${person.kind} with ${person.addresses.join(', ')}.`,
        stop: 'match',
        change: {
          do: 'rule',
          name: `${item.name} at another address`,
          note: 'Looks like a second address of the same person.',
          when: { fact: 'participant', which: 'any', test: { is: 'address', value: item.address } },
          then: { do: 'fileUnder', kind: person.kind, id: person.id, name: person.name },
        },
        weight: item.emails,
      },
    ];
  });
}

/** Companies with which mail goes both ways and of which no one is on record. */
function correspondents({ domains, accounts, isPublicProvider }: TuningFacts): Suggestion[] {
  const owned = new Set(accounts.flatMap((account) => account.domains));
  return domains
    .filter((domain) => domain.sent >= 2 && domain.received >= 2 && domain.filed === 0 && !isPublicProvider(domain.domain))
    .filter((domain) => !owned.has(domain.domain) && !owned.has(registrableDomain(domain.domain) ?? ''))
    .map((domain) => ({
      code: 'correspondents',
      about: domain.domain,
      because: `Mail goes both ways with ${domain.domain} (${domain.sent} sent, ${domain.received} received), and none of it is filed.`,
      stop: 'create',
      change: {
        do: 'rule',
        name: `People of ${domain.domain}`,
        note: 'We correspond with them.',
        when: { fact: 'participant', which: 'this', test: { is: 'domain', value: domain.domain, exactly: false } },
        then: { do: 'contact', account: true, after: 'weWrote', emails: 3, owner: 'mailbox' },
      },
      weight: domain.sent + domain.received,
    }));
}

const REMOVALS: Record<string, { words: string; stop: RuleStop; then: Action<RuleStop> }> = {
  deal: { words: 'deals', stop: 'match', then: { do: 'neverDeals' } },
  account: { words: 'accounts', stop: 'match', then: { do: 'neverAccounts' } },
  all: { words: 'every record', stop: 'takeIn', then: { do: 'leaveLoose' } },
};

/** Domains whose mail people keep taking off. */
function takenOffByHand({ takenOff, isPublicProvider }: TuningFacts): Suggestion[] {
  return takenOff.flatMap(({ domain, kind, emails }): Suggestion[] => {
    const removal = REMOVALS[kind ?? 'all'];
    if (!removal || emails < HAND_FILINGS || isPublicProvider(domain)) return [];
    const { words, stop, then } = removal;
    return [
      {
        code: 'taken-off',
        about: domain,
        because: `People took ${emails} emails with ${domain} off ${words} by hand.`,
        stop,
        change: { do: 'rule', name: `${domain} off ${words}`, note: 'What people did by hand.', when: atDomain(domain), then },
        weight: emails,
      },
    ];
  });
}

/** What people kept filing under one record by hand: the rule that would have done it. */
function filedByHand({ byHand, isPublicProvider }: TuningFacts): Suggestion[] {
  const byDomain = new Map<string, HandFiling[]>();
  for (const filing of byHand) byDomain.set(filing.domain, [...(byDomain.get(filing.domain) ?? []), filing]);
  return [...byDomain].flatMap(([domain, filings]): Suggestion[] => {
    const [first] = filings;
    const alike = filings.every((filing) => filing.kind === first?.kind && filing.recordId === first.recordId);
    if (!first || !alike || filings.length < HAND_FILINGS || isPublicProvider(domain)) return [];
    return [
      {
        code: 'filed-by-hand',
        about: domain,
        because: `People filed ${filings.length} emails with ${domain} under the ${first.kind} ${first.recordName} by hand, and nowhere else.`,
        stop: 'match',
        change: {
          do: 'rule',
          name: `${domain} under ${first.recordName}`,
          note: 'What people did by hand.',
          when: atDomain(domain),
          then: { do: 'fileUnder', kind: first.kind, id: first.recordId, name: first.recordName },
        },
        weight: filings.length,
      },
    ];
  });
}
