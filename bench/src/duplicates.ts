import type { DuplicatePair, Linkable, LinkOptions } from '@fulvet/core';
import { compareRecords, findDuplicates, LIKELY } from '@fulvet/core';
import { report } from './measure';

const FIRST =
  'Ada Bela Cato Dagny Eirik Fenna Goro Hanne Idris Jora Kaito Liv Mirko Nadia Oluwa Pia Quirin Runa Sven Tala Ursa Vito Wren Xenia Yara Zeno'.split(
    ' ',
  );
const SYLLABLES = 'bran dor el fen gar hal is jor kel lun mor nes ost per quil ran sol tor und ves wik'.split(' ');
const options: LinkOptions = { kind: 'person', isPublicProvider: (domain) => domain === 'freemail.example' };

/** The same numbers each time (mulberry32). */
function* numbers(seed: number): Generator<number> {
  for (let state = seed; ;) {
    state = (state + 0x6d2b79f5) | 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    yield ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296;
  }
}

/** People at companies; a tenth stands there twice, in one of five ways. */
function world(total: number): { records: Linkable[]; truth: Set<string> } {
  const random = numbers(7);
  const next = (below: number): number => Math.floor((random.next().value ?? 0) * below);
  const pick = (list: readonly string[]): string => list[next(list.length)] ?? '';
  const records: Linkable[] = [];
  const truth = new Set<string>();
  const originals = Math.round(total / 1.1);
  for (let id = 1; id <= originals; id += 1) {
    const last = `${pick(SYLLABLES)}${pick(SYLLABLES)}${pick(SYLLABLES)}`;
    const name = `${pick(FIRST)} ${last.charAt(0).toUpperCase()}${last.slice(1)}`;
    const company = 1 + next(total / 8);
    const [first = ''] = name.toLowerCase().split(' ');
    records.push({
      id,
      name,
      addresses: [`${first}.${last}@company-${company}.example`],
      domains: [],
      phones: [`+44 ${1_000_000_000 + next(8_999_999_999)}`],
      accountId: company,
    });
  }
  for (let at = 0; at < originals / 10; at += 1) {
    const linkable = records[at * 10];
    if (!linkable) continue;
    const id = originals + 1 + at;
    const [first = '', last = ''] = linkable.name.split(' ');
    const local = linkable.addresses[0]?.split('@')[0] ?? '';
    const way = at % 5;
    const twin: Linkable = {
      id,
      name:
        [
          `${last}, ${first}`,
          linkable.name,
          `${first.charAt(0)}. ${last}`,
          `${first} ${last.slice(0, 3)}${last.slice(4)}`,
          linkable.name.toUpperCase(),
        ][way] ?? '',
      addresses: [
        [
          `${local}@freemail.example`,
          `${local}@freemail.example`,
          `${last.toLowerCase()}@freemail.example`,
          `${first.charAt(0).toLowerCase()}${last.toLowerCase()}@company-${linkable.accountId ?? 0}.example`,
          `${local.replace('.', '_')}@other-${id}.example`,
        ][way] ?? '',
      ],
      domains: [],
      phones: way === 2 ? [(linkable.phones[0] ?? '').replace('+44 ', '0')] : [],
      accountId: way === 3 ? linkable.accountId : null,
    };
    records.push(twin);
    truth.add(`${linkable.id} ${id}`);
  }
  return { records, truth };
}

function found(records: readonly Linkable[]): DuplicatePair[] {
  const work = findDuplicates(records, options);
  for (;;) {
    const step = work.next();
    if (step.done) return step.value;
  }
}

const seconds = (from: number): number => (performance.now() - from) / 1000;

function main(): void {
  const small = world(1500);
  let from = performance.now();
  let compared = 0;
  for (const [at, linkable] of small.records.entries())
    for (const other of small.records.slice(at + 1)) if (compareRecords(linkable, other, options).score >= LIKELY) compared += 1;
  const everyPair = seconds(from);
  from = performance.now();
  found(small.records);
  const blocked = seconds(from);
  const big = world(200_000);
  from = performance.now();
  const pairs = found(big.records);
  const taken = seconds(from);
  const right = pairs.filter((pair) => big.truth.has(`${pair.one} ${pair.other}`)).length;
  report('duplicates among people', [
    ['1,500 records, every pair', `${everyPair.toFixed(2)} s (${compared} likely)`],
    ['the same, by blocks', `${blocked.toFixed(3)} s`],
    ['ratio', (blocked / everyPair).toFixed(4)],
    ['200,000 records', `${taken.toFixed(1)} s, ${pairs.length} pairs`],
    ['of the known ones found', `${((right / big.truth.size) * 100).toFixed(1)} %`],
    ['of the proposed ones right', `${((right / Math.max(1, pairs.length)) * 100).toFixed(1)} %`],
  ]);
}

main();
