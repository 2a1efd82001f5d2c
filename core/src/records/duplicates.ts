import { isRoleLocal, domainOf } from '../address/address';
import { registrableDomain } from '../domain/domain';
import { nameKey } from '../person/nameKey';
import { nameTokens, tokenListLikeness } from './nameLikeness';

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
  fact: 'name' | 'similar name' | 'other name' | 'phone' | 'local part' | 'company' | 'other company' | 'domain' | 'domain name' | 'family';
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
  const prepared = records.map((record) => prepare(record, options));
  const frequencies = frequenciesOf(prepared);
  const blocks = new Map<string, Prepared[]>();
  let done = 0;
  for (const record of prepared) {
    for (const key of keysFor(record, options)) {
      const block = blocks.get(key);
      if (block) block.push(record);
      else blocks.set(key, [record]);
    }
    if ((done += 1) % GIVE_WAY_EVERY === 0) yield null;
  }
  const found = new Map<string, DuplicatePair>();
  for (const block of blocks.values()) {
    if (block.length < 2 || block.length > MOST_IN_BLOCK) continue;
    for (const [at, one] of block.entries()) {
      for (let next = at + 1; next < block.length; next += 1) {
        const other = block[next];
        if (!other || one.record.id === other.record.id) continue;
        if ((done += 1) % GIVE_WAY_EVERY === 0) yield null;
        const likeness = likenessOf(one, other);
        // Two people of other names are two, whatever else they share; few pairs of a block get past this.
        if (likeness === 0 && options.kind === 'person' && !one.unnamed && !other.unnamed) continue;
        const [first, second] = one.record.id < other.record.id ? [one, other] : [other, one];
        const pair = weigh(first, second, likeness, options, frequencies);
        if (pair.score >= LIKELY) found.set(`${pair.one} ${pair.other}`, pair);
      }
    }
  }
  return [...found.values()].sort((one, other) => other.score - one.score || one.one - other.one || one.other - other.other);
}

/** A record with all that is compared of it, computed once. */
interface Prepared {
  record: Linkable;
  key: string;
  tokens: string[];
  /** Named by the address alone, where no name is known. */
  unnamed: boolean;
  locals: string[];
  phones: string[];
  /** Registrable domains that tell a company. */
  domains: string[];
}

function prepare(record: Linkable, { isPublicProvider }: LinkOptions): Prepared {
  const ofAddresses = record.addresses.map(domainOf).filter((domain) => !isPublicProvider(domain));
  return {
    record,
    key: nameKey(record.name),
    tokens: nameTokens(record.name),
    unnamed: record.name.includes('@'),
    locals: record.addresses.map(localOf).filter((local) => local.length >= 4 && !isRoleLocal(local)),
    phones: record.phones.map(phoneKey).filter((phone) => phone.length >= 7),
    domains: [...new Set([...ofAddresses, ...record.domains].map((domain) => registrableDomain(domain) ?? domain))],
  };
}

const likenessOf = (one: Prepared, other: Prepared): number =>
  one.key !== '' && one.key === other.key ? 1 : tokenListLikeness(one.tokens, other.tokens);

interface Frequencies {
  names: ReadonlyMap<string, number>;
  locals: ReadonlyMap<string, number>;
  total: number;
}

function frequenciesOf(records: readonly Prepared[]): Frequencies {
  const names = new Map<string, number>();
  const locals = new Map<string, number>();
  for (const one of records) {
    count(names, one.key);
    for (const local of one.locals) count(locals, local);
  }
  return { names, locals, total: records.length };
}

/** What speaks for and against two records being the same, where nothing is known of how common their names are. */
export function compareRecords(one: Linkable, other: Linkable, options: LinkOptions): DuplicatePair {
  const [first, second] = [prepare(one, options), prepare(other, options)];
  return weigh(first, second, likenessOf(first, second), options, { names: new Map(), locals: new Map(), total: 1000 });
}

function weigh(one: Prepared, other: Prepared, likeness: number, { kind }: LinkOptions, frequencies: Frequencies): DuplicatePair {
  const evidence = [
    ...nameEvidence(one, other, likeness, kind, frequencies),
    ...(kind === 'person' ? personEvidence(one, other, likeness, frequencies) : companyEvidence(one, other)),
  ].sort((first, second) => second.weight - first.weight);
  const score = evidence.reduce((sum, it) => sum + it.weight, 0);
  return { one: one.record.id, other: other.record.id, score, likelihood: 1 / (1 + 2 ** (LIKELY - 2 - score)), evidence };
}

/** Bits that a value is worth of which so many records have the same: rare ones more, within bounds. */
function rarity(frequency: number, total: number, least: number, most: number): number {
  return Math.max(least, Math.min(most, Math.log2(Math.max(total, 200) / Math.max(frequency, 1))));
}

function nameEvidence(
  one: Prepared,
  other: Prepared,
  likeness: number,
  kind: LinkOptions['kind'],
  { names, total }: Frequencies,
): LinkEvidence[] {
  const value = one.record.name === other.record.name ? one.record.name : `${one.record.name} · ${other.record.name}`;
  if (likeness === 1) {
    // One name without a surname says little of a person.
    const single = kind === 'person' && one.tokens.length < 2;
    const bits = rarity(names.get(one.key) ?? 1, total, 3.5, 8);
    return [{ fact: 'name', value, weight: single ? 2 : kind === 'company' ? bits + 2 : bits }];
  }
  if (likeness > 0) return [{ fact: 'similar name', value, weight: 2 + 3 * likeness }];
  return one.unnamed || other.unnamed ? [] : [{ fact: 'other name', value, weight: kind === 'company' ? -3 : -6 }];
}

function personEvidence(one: Prepared, other: Prepared, likeness: number, { locals, total }: Frequencies): LinkEvidence[] {
  const found: LinkEvidence[] = [];
  const phone = inCommon(one.phones, other.phones);
  if (phone !== undefined) found.push({ fact: 'phone', value: phone, weight: 6 });
  const local = inCommon(one.locals, other.locals);
  if (local !== undefined) {
    // Whoever has the same name has the same local part where it is made of the name; that says little more.
    const fromName = likeness === 1 && one.tokens.some((token) => token.length > 2 && local.includes(token));
    found.push({ fact: 'local part', value: local, weight: fromName ? 1 : rarity(locals.get(local) ?? 2, total, 1, 4.5) });
  }
  const { accountId } = one.record;
  const domain = inCommon(one.domains, other.domains);
  if (accountId !== null && accountId === other.record.accountId) found.push({ fact: 'company', value: '', weight: 2.5 });
  else if (domain !== undefined) found.push({ fact: 'domain', value: domain, weight: 2.5 });
  else if (accountId !== null && other.record.accountId !== null) found.push({ fact: 'other company', value: '', weight: -3 });
  return found;
}

function companyEvidence(one: Prepared, other: Prepared): LinkEvidence[] {
  const found: LinkEvidence[] = [];
  const domain = inCommon(one.domains, other.domains);
  if (domain !== undefined) found.push({ fact: 'domain', value: domain, weight: 4 });
  else {
    const label = inCommon(one.domains.map(labelOf), other.domains.map(labelOf));
    if (label !== undefined && label.length >= 4) found.push({ fact: 'domain name', value: label, weight: 4 });
  }
  const phone = inCommon(one.phones, other.phones);
  if (phone !== undefined) found.push({ fact: 'phone', value: phone, weight: 5 });
  if (one.record.accountId === other.record.id || other.record.accountId === one.record.id)
    found.push({ fact: 'family', value: '', weight: -9 });
  return found;
}

/** Keys by which records that may be the same meet: names in several spoilt forms, numbers, local parts, names within a company. */
function* keysFor({ record, key, tokens, unnamed, locals, phones, domains }: Prepared, { kind }: LinkOptions): Generator<string> {
  if (key !== '' && !unnamed) {
    yield `n ${key}`;
    // A slip in one letter leaves the beginnings, or the consonants, as they are.
    const beginnings = tokens.map((one) => one.slice(0, 3));
    yield `p ${beginnings.sort().join(' ')}`;
    yield `c ${[...key.replace(/[\saeiouy]/g, '')].sort().join('')}`;
    const last = tokens.at(-1) ?? '';
    const first = tokens[0] ?? '';
    yield `i ${last} ${first.charAt(0)}`;
    yield `i ${first} ${last.charAt(0)}`;
  }
  for (const phone of phones) yield `t ${phone}`;
  for (const local of locals) yield `l ${local}`;
  for (const address of record.addresses) for (const token of tokens) if (token.length >= 3) yield `d ${domainOf(address)} ${token}`;
  if (kind !== 'company') return;
  for (const domain of domains) {
    yield `d ${domain}`;
    yield `b ${labelOf(domain)}`;
  }
  for (const token of tokens) if (token.length >= 5) yield `w ${token}`;
}

/** The last nine digits: the same number with and without its country code. */
const phoneKey = (phone: string): string => phone.replace(/\D/g, '').slice(-9);
const localOf = (address: string): string => address.slice(0, address.lastIndexOf('@')).replace(/[._-]/g, '');
const labelOf = (domain: string): string => domain.slice(0, domain.indexOf('.'));

function inCommon(one: readonly string[], other: readonly string[]): string | undefined {
  return one.find((it) => it !== '' && other.includes(it));
}

function count(counts: Map<string, number>, key: string): void {
  if (key !== '') counts.set(key, (counts.get(key) ?? 0) + 1);
}
