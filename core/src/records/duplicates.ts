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
  fact:
    | 'name'
    | 'similar name'
    | 'other name'
    | 'phone'
    | 'local part'
    | 'company'
    | 'other company'
    | 'domain'
    | 'domain name'
    | 'family'
    | 'moved together';
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
/** So many people of the same name and local part at two domains tell that the company has moved. */
const MOVED_TOGETHER = 2;
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
  const moved = options.kind === 'person' ? companiesMoved(blocks) : NOTHING_MOVED;
  const found = new Map<string, DuplicatePair>();
  for (const block of blocks.values()) {
    if (block.length < 2 || block.length > MOST_IN_BLOCK) continue;
    for (const [at, item] of block.entries()) {
      for (let next = at + 1; next < block.length; next += 1) {
        const other = block[next];
        if (!other || item.record.id === other.record.id) continue;
        if ((done += 1) % GIVE_WAY_EVERY === 0) yield null;
        const likeness = likenessOf(item, other);
        // Two people of other names are two, whatever else they share; few pairs of a block get past this.
        if (likeness === 0 && options.kind === 'person' && !item.unnamed && !other.unnamed) continue;
        const [first, second] = item.record.id < other.record.id ? [item, other] : [other, item];
        const pair = weigh(first, second, likeness, options, frequencies, moved);
        if (pair.score >= LIKELY) found.set(`${pair.one} ${pair.other}`, pair);
      }
    }
  }
  return [...found.values()].sort((first, second) => second.score - first.score || first.one - second.one || first.other - second.other);
}

const NOTHING_MOVED: ReadonlyMap<string, number> = new Map();

/** Between which domains two records of one name have the same local part, as `first second` in order of the alphabet. */
function movesOf(first: Prepared, second: Prepared): string[] {
  const found: string[] = [];
  for (const { local, domain } of first.places)
    for (const other of second.places)
      if (local === other.local && domain !== other.domain) found.push([domain, other.domain].sort().join(' '));
  return found;
}

/** How many names there are with the same local part at two domains: a company that has another name now takes its people along. */
function companiesMoved(blocks: ReadonlyMap<string, readonly Prepared[]>): ReadonlyMap<string, number> {
  const names = new Map<string, Set<string>>();
  for (const [key, block] of blocks) {
    if (!key.startsWith('n ') || block.length < 2 || block.length > MOST_IN_BLOCK) continue;
    for (const [at, item] of block.entries())
      for (const other of block.slice(at + 1))
        for (const move of movesOf(item, other)) names.set(move, (names.get(move) ?? new Set()).add(item.key));
  }
  return new Map([...names].map(([move, those]) => [move, those.size]));
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
  /** Its local parts at such domains. */
  places: { local: string; domain: string }[];
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
    places: record.addresses
      .filter((address) => !isPublicProvider(domainOf(address)))
      .map((address) => ({ local: localOf(address), domain: registrableDomain(domainOf(address)) ?? domainOf(address) })),
    domains: [...new Set([...ofAddresses, ...record.domains].map((domain) => registrableDomain(domain) ?? domain))],
  };
}

const likenessOf = (first: Prepared, second: Prepared): number =>
  first.key !== '' && first.key === second.key ? 1 : tokenListLikeness(first.tokens, second.tokens);

interface Frequencies {
  names: ReadonlyMap<string, number>;
  locals: ReadonlyMap<string, number>;
  total: number;
}

function frequenciesOf(records: readonly Prepared[]): Frequencies {
  const names = new Map<string, number>();
  const locals = new Map<string, number>();
  for (const record of records) {
    count(names, record.key);
    for (const local of record.locals) count(locals, local);
  }
  return { names, locals, total: records.length };
}

/** What speaks for and against two records being the same, where nothing is known of how common their names are. */
export function compareRecords(item: Linkable, other: Linkable, options: LinkOptions): DuplicatePair {
  const [first, second] = [prepare(item, options), prepare(other, options)];
  return weigh(first, second, likenessOf(first, second), options, { names: new Map(), locals: new Map(), total: 1000 });
}

function weigh(
  item: Prepared,
  other: Prepared,
  likeness: number,
  { kind }: LinkOptions,
  frequencies: Frequencies,
  moved: ReadonlyMap<string, number> = NOTHING_MOVED,
): DuplicatePair {
  const evidence = [
    ...nameEvidence(item, other, likeness, kind, frequencies),
    ...(kind === 'person' ? personEvidence(item, other, likeness, frequencies, moved) : companyEvidence(item, other)),
  ].sort((first, second) => second.weight - first.weight);
  const score = evidence.reduce((sum, it) => sum + it.weight, 0);
  return { one: item.record.id, other: other.record.id, score, likelihood: 1 / (1 + 2 ** (LIKELY - 2 - score)), evidence };
}

/** Bits that a value is worth of which so many records have the same: rare ones more, within bounds. */
function rarity(frequency: number, total: number, least: number, most: number): number {
  return Math.max(least, Math.min(most, Math.log2(Math.max(total, 200) / Math.max(frequency, 1))));
}

function nameEvidence(
  first: Prepared,
  second: Prepared,
  likeness: number,
  kind: LinkOptions['kind'],
  { names, total }: Frequencies,
): LinkEvidence[] {
  const value = first.record.name === second.record.name ? first.record.name : `${first.record.name} · ${second.record.name}`;
  if (likeness === 1) {
    // One name without a surname says little of a person.
    const single = kind === 'person' && first.tokens.length < 2;
    const bits = rarity(names.get(first.key) ?? 1, total, 3.5, 8);
    return [{ fact: 'name', value, weight: single ? 2 : kind === 'company' ? bits + 2 : bits }];
  }
  if (likeness > 0) return [{ fact: 'similar name', value, weight: 2 + 3 * likeness }];
  return first.unnamed || second.unnamed ? [] : [{ fact: 'other name', value, weight: kind === 'company' ? -3 : -6 }];
}

function personEvidence(
  first: Prepared,
  second: Prepared,
  likeness: number,
  { locals, total }: Frequencies,
  moved: ReadonlyMap<string, number>,
): LinkEvidence[] {
  const found: LinkEvidence[] = [];
  const phone = inCommon(first.phones, second.phones);
  if (phone !== undefined) found.push({ fact: 'phone', value: phone, weight: 6 });
  const local = inCommon(first.locals, second.locals);
  if (local !== undefined) {
    // Whoever has the same name has the same local part where it is made of the name; that says little more.
    const fromName = likeness === 1 && first.tokens.some((token) => token.length > 2 && local.includes(token));
    found.push({ fact: 'local part', value: local, weight: fromName ? 1 : rarity(locals.get(local) ?? 2, total, 1, 4.5) });
  }
  const { accountId } = first.record;
  const domain = inCommon(first.domains, second.domains);
  // Few pairs are of one name, and most files have no company that moved.
  const move =
    likeness === 1 && moved.size > 0 ? movesOf(first, second).find((domains) => (moved.get(domains) ?? 0) >= MOVED_TOGETHER) : undefined;
  if (move !== undefined) found.push({ fact: 'moved together', value: move, weight: 5 });
  else if (accountId !== null && accountId === second.record.accountId) found.push({ fact: 'company', value: '', weight: 2.5 });
  else if (domain !== undefined) found.push({ fact: 'domain', value: domain, weight: 2.5 });
  else if (accountId !== null && second.record.accountId !== null) found.push({ fact: 'other company', value: '', weight: -3 });
  return found;
}

function companyEvidence(first: Prepared, second: Prepared): LinkEvidence[] {
  const found: LinkEvidence[] = [];
  const domain = inCommon(first.domains, second.domains);
  if (domain !== undefined) found.push({ fact: 'domain', value: domain, weight: 4 });
  else {
    const label = inCommon(first.domains.map(labelOf), second.domains.map(labelOf));
    if (label !== undefined && label.length >= 4) found.push({ fact: 'domain name', value: label, weight: 4 });
  }
  const phone = inCommon(first.phones, second.phones);
  if (phone !== undefined) found.push({ fact: 'phone', value: phone, weight: 5 });
  if (first.record.accountId === second.record.id || second.record.accountId === first.record.id)
    found.push({ fact: 'family', value: '', weight: -9 });
  return found;
}

/** Keys by which records that may be the same meet: names in several spoilt forms, numbers, local parts, names within a company. */
function* keysFor({ record, key, tokens, unnamed, locals, phones, domains }: Prepared, { kind }: LinkOptions): Generator<string> {
  if (key !== '' && !unnamed) {
    yield `n ${key}`;
    // A slip in one letter leaves the beginnings, or the consonants, as they are.
    const beginnings = tokens.map((token) => token.slice(0, 3));
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

function inCommon(first: readonly string[], second: readonly string[]): string | undefined {
  return first.find((it) => it !== '' && second.includes(it));
}

function count(counts: Map<string, number>, key: string): void {
  if (key !== '') counts.set(key, (counts.get(key) ?? 0) + 1);
}
