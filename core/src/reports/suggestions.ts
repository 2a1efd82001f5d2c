import { domainOf } from '../address/address';
import { registrableDomain } from '../domain/domain';
import { companyNameFromDomain } from '../person/companyName';
import { nameKey } from '../person/nameKey';
import { isOneEditApart } from '../person/oneEditApart';
import type { Action, Rule, RuleStop } from '../rulebook/rule';

/** What past mail says of one domain outside. */
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

/** An address in mail that is on no record, with the name that it writes under. */
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
  code: 'machine-domain' | 'one-sided' | 'like-account' | 'second-address' | 'correspondents' | 'filed-by-hand' | 'taken-off';
  /** The domain or address that it is about. */
  about: string;
  /** Why, in a sentence with the numbers. */
  because: string;
  stop: RuleStop;
  rule: Pick<Rule<Action<RuleStop>>, 'name' | 'note' | 'when' | 'then'>;
  /** Emails that it rests on; the most first. */
  weight: number;
}

export interface TuningFacts {
  domains: readonly DomainUse[];
  unknown: readonly UnknownAddress[];
  byHand: readonly HandFiling[];
  takenOff: readonly HandRemoval[];
  accounts: readonly { id: number; name: string; domains: readonly string[] }[];
  people: readonly { kind: 'contact' | 'lead'; id: number; name: string; addresses: readonly string[] }[];
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
      because: `All ${domain.emails} emails from ${domain.domain} were written by machines; ${domain.emails - domain.keptOut} of them came in.`,
      stop: 'keepOut',
      rule: {
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
      because: `${domain.domain} wrote ${domain.received} times; nobody of us ever wrote there, and none of it is filed.`,
      stop: 'keepOut',
      rule: {
        name: `Keep out ${domain.domain}`,
        note: 'They write, and nobody of us answers.',
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
    if (!like || others.length > 0) return [];
    return [
      {
        code: 'like-account',
        about: domain.domain,
        because: `${domain.domain} looks like ${like.name}${like.domains.length > 0 ? ` (${like.domains.join(', ')})` : ''}; ${domain.emails - domain.filed} of its ${domain.emails} emails are under no record.`,
        stop: 'match',
        rule: {
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
        rule: {
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
      rule: {
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
        rule: { name: `${domain} off ${words}`, note: 'What people did by hand.', when: atDomain(domain), then },
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
        rule: {
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
