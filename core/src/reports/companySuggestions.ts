import { registrableDomain } from '../domain/domain';
import { isNearDomain, keptKeys, nearKeys } from '../domain/nearDomain';
import { companyNameFromDomain } from '../person/companyName';
import { nameKey } from '../person/nameKey';
import { isOneEditApart } from '../text/oneEditApart';
import { atDomain } from './tuningFacts';
import type { DomainUse, Suggestion, TuningFacts } from './tuningFacts';

const AUTHORS_OF_FORM = 3;

/** Unmatched domains that look like those of an account. */
export function likeAccounts({ domains, accounts, isPublicProvider }: TuningFacts): Suggestion[] {
  const owned = new Set(accounts.flatMap((account) => account.domains));
  const like = accountsLike(accounts);
  return domains.flatMap((domain): Suggestion[] => {
    const own = registrableDomain(domain.domain);
    if (own === null || owned.has(own) || owned.has(domain.domain) || isPublicProvider(domain.domain) || domain.filed === domain.emails)
      return [];
    const [account, ...others] = like(own);
    if (!account || others.length > 0 || isMisspelled(domain, account)) return [];
    return [
      {
        code: 'like-account',
        about: domain.domain,
        because: `${domain.domain} looks like ${account.name}${account.domains.length > 0 ? ` (${account.domains.join(', ')})` : ''}; ${domain.emails - domain.filed} of its ${domain.emails} emails are unfiled.`,
        step: 'match',
        change: {
          do: 'rule',
          name: `${domain.domain} is ${account.name}`,
          note: 'Another domain of the same company.',
          when: atDomain(domain.domain),
          then: { do: 'fileUnder', kind: 'account', id: account.id, name: account.name },
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
export function misspelledDomains({ domains, accounts, isPublicProvider }: TuningFacts): Suggestion[] {
  const owned = new Set(accounts.flatMap((account) => account.domains));
  const byKey = new Map<string, Set<Account>>();
  for (const account of accounts) for (const key of account.domains.flatMap(keptKeys)) addTo(byKey, key, account);
  return domains.flatMap((domain): Suggestion[] => {
    if (domain.received > 0 || owned.has(domain.domain) || isPublicProvider(domain.domain)) return [];
    const near = new Set(nearKeys(domain.domain).flatMap((key) => [...(byKey.get(key) ?? [])]));
    const [like, ...others] = [...near].filter((account) => isMisspelled(domain, account));
    const meant = like?.domains.find((theirs) => isNearDomain(domain.domain, theirs));
    if (!like || !meant || others.length > 0) return [];
    return [
      {
        code: 'misspelled',
        about: domain.domain,
        because: `${domain.domain} is one letter apart from ${meant} of ${like.name}. ${domain.sent} ${domain.sent === 1 ? 'email' : 'emails'} went there, and none came back.`,
        step: 'match',
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
export function renamedCompanies({ domains, unknown, people, accounts, announced, isPublicProvider }: TuningFacts): Suggestion[] {
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
        step: 'match',
        change: { do: 'addDomain', account: { id: account, name }, domain },
        weight: Math.max(movers[0]?.emails ?? 0, domains.find((use) => use.domain === domain)?.emails ?? 0),
      },
    ];
  });
}

const personAt = (name: string, address: string): string => `${address.slice(0, address.lastIndexOf('@'))} ${nameKey(name)}`;

function addTo<T>(sets: Map<string, Set<T>>, key: string, value: T): void {
  const known = sets.get(key);
  if (known) known.add(value);
  else sets.set(key, new Set([value]));
}

/** Addresses that send what others wrote: each email names another external person in Reply-To. */
export function formAddresses({ answeredElsewhere }: TuningFacts): Suggestion[] {
  return answeredElsewhere
    .filter(({ emails, authors }) => authors >= AUTHORS_OF_FORM && authors * 2 >= emails)
    .map(({ address, emails, authors }) => ({
      code: 'form-address',
      about: address,
      because: `${emails} emails from ${address} name ${authors} different people in Reply-To. It looks like a form that visitors fill in.`,
      step: 'takeIn',
      change: { do: 'addForm', address },
      weight: emails,
    }));
}

type Account = TuningFacts['accounts'][number];

/** The accounts that domains look like, found by keys: not every domain is compared with every account. */
export function accountsLike(accounts: readonly Account[]): (domain: string) => Account[] {
  const byKey = new Map<string, Set<Account>>();
  for (const account of accounts) {
    addTo(byKey, `name ${nameKey(account.name)}`, account);
    for (const label of account.domains.map((domain) => labelOf(registrableDomain(domain) ?? domain))) {
      for (const key of [`label ${label}`, ...beginningsOf(label).map((part) => `begins ${part}`), ...keptKeys(label)])
        addTo(byKey, key, account);
    }
  }
  return (domain) => {
    const label = labelOf(domain);
    const company = companyNameFromDomain(domain);
    const keys = [
      ...(company === null ? [] : [`name ${nameKey(company)}`]),
      `label ${label}`,
      `begins ${label}`,
      ...beginningsOf(label).map((part) => `label ${part}`),
      ...nearKeys(label),
    ];
    return [...new Set(keys.flatMap((key) => [...(byKey.get(key) ?? [])]))].filter((account) => looksLike(domain, account));
  };
}

/** What stands before each hyphen. */
const beginningsOf = (label: string): string[] => [...label.matchAll(/-/g)].map(({ index }) => label.slice(0, index));

/** Whether a domain looks like one of the account, or like its name. */
export function looksLike(domain: string, account: Account): boolean {
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
