import { isRoleLocal } from '../address/address';
import { registrableDomain } from '../domain/domain';
import { nameKey } from '../person/nameKey';
import { nameLikeness, nameTokens } from './nameLikeness';

/** A record as far as likeness is asked about it; a person or a company. */
export interface Linkable {
  id: number;
  name: string;
  /** Comparable addresses of a person. */
  addresses: readonly string[];
  /** Domains of a company. */
  domains: readonly string[];
  phones: readonly string[];
  /** Account of a person, parent of a company. */
  accountId: number | null;
}

/** One piece of what speaks for or against two records being the same. */
export interface LinkEvidence {
  fact:
    | 'name'
    | 'similar name'
    | 'other name'
    | 'phone'
    | 'local part'
    | 'address'
    | 'company'
    | 'other company'
    | 'domain'
    | 'domain name'
    | 'family'
    | 'written together';
  value: string;
  /** In bits: how many times likelier it is for one than for two, as a power of two. */
  weight: number;
}

export interface DuplicatePair {
  one: number;
  other: number;
  /** Sum of the weights, in bits. */
  score: number;
  /** 0 to 1. */
  likelihood: number;
  evidence: LinkEvidence[];
}

export interface LinkOptions {
  kind: 'person' | 'company';
  isPublicProvider: (domain: string) => boolean;
  /** Whether both take part in one email: two people then, most likely. */
  together?: (one: number, other: number) => boolean;
}

/** Pairs below this are not proposed, in bits. */
export const LIKELY = 7;
/** A key that more records have than this says too little to compare them all. */
const MOST_IN_BLOCK = 60;
const GIVE_WAY_EVERY = 2000;

/**
 * Finds pairs of records that are likely the same (record linkage after Fellegi and Sunter, 1969): records that have a key in common are
 * compared, each comparison adds its weight, and rare names weigh more than common ones. The likeliest pairs come first.
 *
 * Yields null now and then so that the caller can let others work; the last value is the result.
 */
export function* findDuplicates(records: readonly Linkable[], options: LinkOptions): Generator<null, DuplicatePair[]> {
  const names = new Map<string, number>();
  const locals = new Map<string, number>();
  for (const one of records) {
    count(names, nameKey(one.name));
    for (const address of one.addresses) count(locals, localOf(address));
  }
  const frequencies: Frequencies = { names, locals, total: records.length };
  const blocks = new Map<string, number[]>();
  let done = 0;
  for (const [at, record] of records.entries()) {
    for (const key of keysFor(record, options)) {
      const block = blocks.get(key);
      if (block) block.push(at);
      else blocks.set(key, [at]);
    }
    if ((done += 1) % GIVE_WAY_EVERY === 0) yield null;
  }
  const compared = new Set<number>();
  const pairs: DuplicatePair[] = [];
  for (const block of blocks.values()) {
    if (block.length < 2 || block.length > MOST_IN_BLOCK) continue;
    for (let i = 0; i < block.length; i += 1) {
      for (let j = i + 1; j < block.length; j += 1) {
        const [a, b] = [block[i] ?? 0, block[j] ?? 0];
        const key = a * records.length + b;
        if (compared.has(key)) continue;
        compared.add(key);
        const [one, other] = [records[a], records[b]];
        const pair =
          one &&
          other &&
          (one.id < other.id ? compareRecords(one, other, options, frequencies) : compareRecords(other, one, options, frequencies));
        if (pair && pair.score >= LIKELY) pairs.push(pair);
        if ((done += 1) % GIVE_WAY_EVERY === 0) yield null;
      }
    }
  }
  return pairs.sort((one, other) => other.score - one.score || one.one - other.one || one.other - other.other);
}

interface Frequencies {
  names: ReadonlyMap<string, number>;
  locals: ReadonlyMap<string, number>;
  total: number;
}

/** What speaks for and against two records being the same. @param frequencies how often names and local parts are met; none: rarely */
export function compareRecords(one: Linkable, other: Linkable, options: LinkOptions, frequencies?: Frequencies): DuplicatePair {
  const known = frequencies ?? { names: new Map(), locals: new Map(), total: 1000 };
  const evidence = [
    ...nameEvidence(one, other, options, known),
    ...(options.kind === 'person' ? personEvidence(one, other, options, known) : companyEvidence(one, other)),
  ];
  if (options.together?.(one.id, other.id)) evidence.push({ fact: 'written together', value: '', weight: -6 });
  const score = evidence.reduce((sum, it) => sum + it.weight, 0);
  return {
    one: one.id,
    other: other.id,
    score,
    likelihood: 1 / (1 + 2 ** (LIKELY - 2 - score)),
    evidence: evidence.sort((a, b) => b.weight - a.weight),
  };
}

/** Bits that a value is worth of which so many records have the same: rare ones more, within bounds. */
function rarity(frequency: number, total: number, least: number, most: number): number {
  return Math.max(least, Math.min(most, Math.log2(Math.max(total, 200) / Math.max(frequency, 1))));
}

function nameEvidence(one: Linkable, other: Linkable, { kind }: LinkOptions, { names, total }: Frequencies): LinkEvidence[] {
  const likeness = nameLikeness(one.name, other.name);
  const value = one.name === other.name ? one.name : `${one.name} · ${other.name}`;
  if (likeness === 1) {
    // One name without a surname says little of a person.
    const frequency = names.get(nameKey(one.name)) ?? 1;
    const single = kind === 'person' && nameTokens(one.name).length < 2;
    return [
      {
        fact: 'name',
        value,
        weight: single ? 2 : kind === 'company' ? 2 + rarity(frequency, total, 3.5, 8) : rarity(frequency, total, 3.5, 8),
      },
    ];
  }
  if (likeness > 0) return [{ fact: 'similar name', value, weight: 2 + 3 * likeness }];
  return isUnnamed(one) || isUnnamed(other) ? [] : [{ fact: 'other name', value, weight: kind === 'company' ? -3 : -6 }];
}

/** Named by the address alone, where no name is known. */
const isUnnamed = (record: Linkable): boolean => record.name.includes('@');

function personEvidence(one: Linkable, other: Linkable, { isPublicProvider }: LinkOptions, { locals, total }: Frequencies): LinkEvidence[] {
  const found: LinkEvidence[] = [];
  const phone = inCommon(one.phones.map(phoneKey), other.phones.map(phoneKey));
  if (phone !== undefined && phone.length >= 7) found.push({ fact: 'phone', value: phone, weight: 6 });
  const ofOne = one.addresses.map(localOf);
  const local = inCommon(ofOne, other.addresses.map(localOf));
  if (local !== undefined && local.length >= 4 && !isRoleLocal(local))
    found.push({ fact: 'local part', value: local, weight: rarity(locals.get(local) ?? 2, total, 1, 4.5) });
  const domainsOf = (record: Linkable): string[] =>
    record.addresses.flatMap((address) => {
      const domain = domainOf(address);
      return isPublicProvider(domain) ? [] : (registrableDomain(domain) ?? domain);
    });
  const domain = inCommon(domainsOf(one), domainsOf(other));
  if (one.accountId !== null && one.accountId === other.accountId) found.push({ fact: 'company', value: '', weight: 2.5 });
  else if (domain !== undefined) found.push({ fact: 'domain', value: domain, weight: 2.5 });
  else if (one.accountId !== null && other.accountId !== null) found.push({ fact: 'other company', value: '', weight: -2 });
  return found;
}

function companyEvidence(one: Linkable, other: Linkable): LinkEvidence[] {
  const found: LinkEvidence[] = [];
  const domainsOf = (record: Linkable): string[] => record.domains.map((domain) => registrableDomain(domain) ?? domain);
  const domain = inCommon(domainsOf(one), domainsOf(other));
  if (domain !== undefined) found.push({ fact: 'domain', value: domain, weight: 4 });
  else {
    const label = inCommon(domainsOf(one).map(labelOf), domainsOf(other).map(labelOf));
    if (label !== undefined && label.length >= 4) found.push({ fact: 'domain name', value: label, weight: 4 });
  }
  const phone = inCommon(one.phones.map(phoneKey), other.phones.map(phoneKey));
  if (phone !== undefined && phone.length >= 7) found.push({ fact: 'phone', value: phone, weight: 5 });
  if (one.accountId === other.id || other.accountId === one.id) found.push({ fact: 'family', value: '', weight: -9 });
  return found;
}

/** Keys by which records that may be the same meet: names in several spoilt forms, numbers, local parts, names within a company. */
function* keysFor(record: Linkable, { kind }: LinkOptions): Generator<string> {
  const key = nameKey(record.name);
  const tokens = nameTokens(record.name);
  if (key !== '' && !isUnnamed(record)) {
    yield `n ${key}`;
    // A slip in one letter leaves the beginnings, or the consonants, as they are.
    yield `p ${tokens
      .map((one) => one.slice(0, 3))
      .sort()
      .join(' ')}`;
    yield `c ${[...key.replace(/[\saeiouy]/g, '')].sort().join('')}`;
    const last = tokens.at(-1) ?? '';
    const first = tokens[0] ?? '';
    yield `i ${last} ${first.charAt(0)}`;
    yield `i ${first} ${last.charAt(0)}`;
  }
  for (const phone of record.phones.map(phoneKey)) if (phone.length >= 7) yield `t ${phone}`;
  for (const address of record.addresses) {
    const local = localOf(address);
    if (local.length >= 4 && !isRoleLocal(local)) yield `l ${local}`;
    for (const token of tokens) if (token.length >= 3) yield `d ${domainOf(address)} ${token}`;
  }
  for (const domain of record.domains) {
    const own = registrableDomain(domain) ?? domain;
    yield `d ${own}`;
    yield `b ${labelOf(own)}`;
  }
  if (kind === 'company') for (const token of tokens) if (token.length >= 5) yield `w ${token}`;
}

/** The last nine digits: the same number with and without its country code. */
const phoneKey = (phone: string): string => phone.replace(/\D/g, '').slice(-9);
const localOf = (address: string): string => address.slice(0, address.lastIndexOf('@')).replace(/[._-]/g, '');
const domainOf = (address: string): string => address.slice(address.lastIndexOf('@') + 1);
const labelOf = (domain: string): string => domain.slice(0, domain.indexOf('.'));

function inCommon(one: readonly string[], other: readonly string[]): string | undefined {
  return one.find((it) => it !== '' && other.includes(it));
}

function count(counts: Map<string, number>, key: string): void {
  if (key !== '') counts.set(key, (counts.get(key) ?? 0) + 1);
}
