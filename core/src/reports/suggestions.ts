import { domainOf } from '../address/address';
import { registrableDomain } from '../domain/domain';
import { nameKey } from '../person/nameKey';
import type { Action, RuleStep } from '../rulebook/rule';
import { formAddresses, likeAccounts, misspelledDomains, renamedCompanies } from './companySuggestions';
import { atDomain } from './tuningFacts';
import type { HandFiling, Suggestion, TuningFacts } from './tuningFacts';

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

/** Domains from which machines write only, and which come in. */
function machineDomains({ domains }: TuningFacts): Suggestion[] {
  return domains
    .filter((domain) => domain.emails >= FEW && domain.machine === domain.emails && domain.sent === 0 && domain.keptOut < domain.emails)
    .map((domain) => ({
      code: 'machine-domain',
      about: domain.domain,
      because: `All ${domain.emails} emails from ${domain.domain} were written automatics; ${domain.emails - domain.keptOut} of them came in.`,
      step: 'keepOut',
      change: {
        do: 'rule',
        name: `Machines of ${domain.domain}`,
        note: 'Machines write from there only.',
        when: atDomain(domain.domain),
        then: { do: 'ignore' },
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
      step: 'keepOut',
      change: {
        do: 'rule',
        name: `Keep out ${domain.domain}`,
        note: 'They write, and none of us answers.',
        when: atDomain(domain.domain),
        then: { do: 'ignore' },
      },
      weight: domain.received,
    }));
}

/** Unknown addresses that write under the name of one known person, from a provider or from their company. */
function secondAddresses({ unknown, people, isPublicProvider }: TuningFacts): Suggestion[] {
  const byName = new Map<string, TuningFacts['people'][number][]>();
  for (const person of people) {
    const key = nameKey(person.name);
    const known = byName.get(key);
    if (known) known.push(person);
    else byName.set(key, [person]);
  }
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
        step: 'match',
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
      step: 'create',
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

const REMOVALS: Record<string, { words: string; step: RuleStep; then: Action<RuleStep> }> = {
  deal: { words: 'deals', step: 'match', then: { do: 'neverDeals' } },
  account: { words: 'accounts', step: 'match', then: { do: 'neverAccounts' } },
  all: { words: 'every record', step: 'takeIn', then: { do: 'leaveToOwner' } },
};

/** Domains whose mail people keep taking off. */
function takenOffByHand({ takenOff, isPublicProvider }: TuningFacts): Suggestion[] {
  return takenOff.flatMap(({ domain, kind, emails }): Suggestion[] => {
    const removal = REMOVALS[kind ?? 'all'];
    if (!removal || emails < HAND_FILINGS || isPublicProvider(domain)) return [];
    const { words, step, then } = removal;
    return [
      {
        code: 'taken-off',
        about: domain,
        because: `People took ${emails} emails with ${domain} off ${words} by hand.`,
        step,
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
        step: 'match',
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
