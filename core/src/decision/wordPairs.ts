import { ownText } from '../emails/bodyParts';
import { nameKey } from '../person/nameKey';
import type { DealRecord } from '../records/directory';
import { comparableWords } from './dealName';
import type { NamedDeal } from './dealName';

/** Whoever writes about another matter says so at the beginning. */
const MOST_PAIRS = 60;
const CHARACTERS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_';
const WIDTH = 4;
/** Asked for once: it is called for each letter. */
const { imul } = Math;

/**
 * Stands for the words that follow each other in what the sender wrote: four characters for each two of them (24 bits of their hash), so that names
 * can be looked for without the text. What was written cannot be told from it.
 */
export function wordPairsOf(text: string): string {
  const words = comparableWords(ownText(text));
  let pairs = '';
  for (let at = 1; at < words.length && pairs.length < MOST_PAIRS * WIDTH; at += 1) {
    const pair = pairCode(words[at - 1] ?? '', words[at] ?? '');
    if (!hasPair(pairs, pair)) pairs += pair;
  }
  return pairs;
}

/** Fowler-Noll-Vo hash (FNV-1a, 32 bits), folded to 24. */
function pairCode(first: string, second: string): string {
  let hash = 0x811c9dc5;
  const text = `${first} ${second}`;
  for (let at = 0; at < text.length; at += 1) hash = imul(hash ^ text.charCodeAt(at), 0x01000193);
  let bits = ((hash >>> 24) ^ hash) & 0xffffff;
  let code = '';
  for (let at = 0; at < WIDTH; at += 1) {
    code += CHARACTERS[bits & 63];
    bits >>>= 6;
  }
  return code;
}

function hasPair(pairs: string, pair: string): boolean {
  for (let at = pairs.indexOf(pair); at >= 0; at = pairs.indexOf(pair, at + 1)) if (at % WIDTH === 0) return true;
  return false;
}

/** A name as the pairs of its words, which have to follow each other. */
interface NameAsPairs {
  words: readonly string[];
  pairs: readonly string[];
}

const namesByDeal = new WeakMap<DealRecord, { company: string; names: readonly NameAsPairs[] }>();

/** The names of a deal of two words and more, without its company's where two are left. */
function namesOf(deal: DealRecord, company: string): readonly NameAsPairs[] {
  const known = namesByDeal.get(deal);
  if (known?.company === company) return known.names;
  const ofCompany = new Set(comparableWords(nameKey(company)));
  const names = [deal.name, ...(deal.formerNames ?? [])].flatMap((name): NameAsPairs[] => {
    const all = comparableWords(name);
    const own = all.filter((word) => !ofCompany.has(word));
    const words = own.length > 1 ? own : all;
    if (words.length < 2 || own.length === 0) return [];
    return [{ words, pairs: words.slice(1).map((word, at) => pairCode(words[at] ?? '', word)) }];
  });
  namesByDeal.set(deal, { company, names });
  return names;
}

/** The deals of these whose whole name stands in a text, word by word. A name within a longer one that stands there as well is not meant. */
export function dealsInPairs(pairs: string, deals: readonly DealRecord[], companyOf: (deal: DealRecord) => string): readonly NamedDeal[] {
  if (pairs === '' || deals.length === 0) return NONE;
  const found: NamedDeal[] = [];
  for (const deal of deals) {
    const name = namesOf(deal, companyOf(deal)).find((item) => item.pairs.every((pair) => hasPair(pairs, pair)));
    if (name) found.push({ deal, words: name.words });
  }
  return found.filter(
    (item) => !found.some((other) => other.words.length > item.words.length && item.words.every((word) => other.words.includes(word))),
  );
}

const NONE: readonly NamedDeal[] = [];
