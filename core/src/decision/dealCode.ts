import { ownText } from '../emails/bodyParts';
import { codeKey } from '../records/codeKey';
import type { DealRecord, Directory } from '../records/directory';
import { numbersIn } from '../records/numbersIn';
import type { WrittenNumber } from '../records/numbersIn';

const TOKEN = /[\p{L}\d]+/gu;
/** What may stand between the parts of a code: a dash, a slash, a dot, a blank, a number sign. */
const BETWEEN = /^[ \t]{0,2}[-_/.#:]?[ \t]{0,2}$/;
/** What binds two parts into one number. */
const TIGHT = /^[-/.]$/;
/** Every dash that mail programs and word processors put in place of a hyphen. */
const DASHES = /[\u2010-\u2015\u2212\uFE58\uFE63\uFF0D]/g;
const UNSEEN = /[\u00AD\u200B-\u200D\u2060\uFEFF]/g;
/** What a subject says that it was before: `(was: ...)`, in the languages that we meet. */
const WAS =
  /\s*[([]\s*(?:was|war|vorher|früher|bisher|formerly|previously|ehemals|anciennement|était|ex|antes|era|prima|tidligere|var|tidigare|oli|wcześniej|było|eerder|was eerst)\s*:.*$/isu;
/** Words that make a bare number the number of a quote or an order. */
const NUMBERED =
  /(?:(?<![\p{L}\d])(?:quotes?|quotations?|offers?|proposal|order|angebot|angebots?nummer|auftrag|bestellung|devis|offre|commande|ofertas?|presupuesto|pedido|offerta|preventivo|ordine|offertes?|tilbud|ordre|offert|anbud|beställning|tarjous|tilaus|nabídka|oferty)\.?[ \t]{0,2}(?:(?:no|nr|n°|nº|num|number|nummer|numéro|número|numero)\.?[ \t]{0,2})?[:#]?[ \t]{0,2}|#[ \t]?)(\d{3,})(?![\p{L}\d]|[-/.,:]\d)/giu;
const IS_PLAIN = /^[\x20-\x7e]*$/;
const MOST_PARTS = 4;
const SHORTEST = 4;
const MOST_OF_TEXT = 100;

/** A text in which every dash is a hyphen, and nothing unseen stands. */
const plain = (text: string): string =>
  IS_PLAIN.test(text)
    ? text
    : text
        .replace(DASHES, '-')
        .replace(UNSEEN, '')
        .replace(/\u00A0|\u202F/g, ' ');

/** The numbers of records of own kinds that a text may name, with hyphens for all dashes. */
export const numbersOf = (text: string): WrittenNumber[] => numbersIn(plain(text));

/** A subject without what it says that it was before. */
export const currentSubject = (subject: string): string => (/[([]/.test(subject) ? subject.replace(WAS, '') : subject);

interface Part {
  at: number;
  end: number;
  hasDigit: boolean;
  /** What stands between it and the part before, and whether that joins the two. */
  gap: string;
  isJoined: boolean;
}

function partsOf(text: string): Part[] {
  let end = 0;
  return [...text.matchAll(TOKEN)].map((match, nth) => {
    const gap = nth === 0 ? '' : text.slice(end, match.index);
    end = match.index + match[0].length;
    return { at: match.index, end, hasDigit: /\d/.test(match[0]), gap, isJoined: nth > 0 && BETWEEN.test(gap) };
  });
}

/**
 * Whatever in a text may be a reference code, in capitals, the longest first where several begin or end at one place: up to four parts that a dash,
 * a slash, a dot, a blank or nothing joins, one of them with a digit, at least four characters. A revision behind it is left out as well as kept.
 */
export function codeWords(text: string): string[] {
  if (!/\d/.test(text)) return [];
  const line = plain(text);
  const parts = partsOf(line);
  const found: string[] = [];
  for (let length = Math.min(MOST_PARTS, parts.length); length >= 1; length -= 1) {
    for (let from = 0; from + length <= parts.length; from += 1) {
      const to = from + length;
      const [first, last] = [parts[from], parts[to - 1]];
      if (!first || !last) continue;
      let hasDigit = first.hasDigit;
      let isJoined = true;
      for (let at = from + 1; at < to && isJoined; at += 1) {
        isJoined = parts[at]?.isJoined === true;
        hasDigit ||= parts[at]?.hasDigit === true;
      }
      if (!isJoined || !hasDigit) continue;
      // A number that goes on is another number.
      if (last.hasDigit && parts[to]?.hasDigit && TIGHT.test(parts[to].gap)) continue;
      if (first.hasDigit && parts[from - 1]?.hasDigit && TIGHT.test(first.gap)) continue;
      const written = line.slice(first.at, last.end).toUpperCase();
      if (written.length >= SHORTEST && !found.includes(written)) found.push(written);
    }
  }
  return found;
}

/**
 * Where in what the sender wrote a reference code may stand: each number with the words around it, in capitals; not of what is quoted, nor of the
 * signature.
 */
export function codeWordsOfText(text: string): string[] {
  if (!/\d/.test(text)) return [];
  const own = plain(ownText(text));
  const parts = partsOf(own);
  const found: string[] = [];
  for (let at = 0; at < parts.length && found.length < MOST_OF_TEXT; at += 1) {
    if (!parts[at]?.hasDigit) continue;
    let from = at;
    while (at - from < MOST_PARTS - 1 && parts[from]?.isJoined) from -= 1;
    let to = at;
    while (to - at < MOST_PARTS - 1 && parts[to + 1]?.isJoined) to += 1;
    const start = parts[from]?.at ?? 0;
    const piece = own.slice(own[start - 1] === '#' ? start - 1 : start, parts[to]?.end).toUpperCase();
    if (!found.includes(piece)) found.push(piece);
  }
  return found;
}

/** A deal that a text names by its code, or by one that it had before. */
export interface CodedDeal {
  deal: DealRecord;
  code: string;
}

/** The deals that these words name, each once, in order. */
export function dealsWithCodes(words: readonly string[], directory: Directory): CodedDeal[] {
  const found: CodedDeal[] = [];
  const taken: string[] = [];
  for (const code of words) {
    // The longest tells: within `QH-2041-2` no one means `QH-2041`, where there are both.
    if (taken.some((longer) => longer.includes(code))) continue;
    const deal = directory.dealWithCode(code);
    if (!deal) continue;
    taken.push(code);
    if (!found.some((item) => item.deal === deal)) found.push({ deal, code });
  }
  return found;
}

/** Of these deals, those whose code stands in one of the pieces of text; a code of digits alone is a number like others there. */
export function candidatesInText(pieces: readonly string[], candidates: readonly DealRecord[]): CodedDeal[] {
  if (pieces.length === 0 || candidates.length === 0) return [];
  const byKey = new Map<string, DealRecord>();
  for (const deal of candidates)
    for (const code of codesOf(deal)) if (/\p{L}/u.test(code) && !byKey.has(codeKey(code))) byKey.set(codeKey(code), deal);
  const found: CodedDeal[] = [];
  for (const piece of pieces)
    for (const code of codeWords(piece)) {
      const deal = byKey.get(codeKey(code));
      if (deal && !found.some((item) => item.deal === deal)) found.push({ deal, code });
    }
  return found;
}

/** Of these deals, those whose number a text has behind a word for it, or a number sign: `offer 2041`, `Angebot Nr. 2041`, `#2041`. */
export function candidatesByNumber(pieces: readonly string[], candidates: readonly DealRecord[]): CodedDeal[] {
  if (candidates.length === 0) return [];
  const found: CodedDeal[] = [];
  for (const piece of pieces) {
    if (!/\d{3}/.test(piece)) continue;
    for (const [said, number] of plain(piece).matchAll(NUMBERED)) {
      const having = candidates.filter((deal) => codesOf(deal).some((code) => mainNumber(code) === number));
      const [only] = having;
      if (only && having.length === 1 && !found.some((item) => item.deal === only)) found.push({ deal: only, code: said.trim() });
    }
  }
  return found;
}

const codesOf = (deal: DealRecord): readonly string[] => [...(deal.code ? [deal.code] : []), ...(deal.formerCodes ?? [])];

/** The longest number in a code, by which people call it. */
function mainNumber(code: string): string {
  let longest = '';
  for (const [digits] of code.matchAll(/\d+/g)) if (digits.length > longest.length) longest = digits;
  return longest;
}

/** A file's name without its ending, as a piece of text. */
export const nameOfFile = (name: string): string => name.replace(/\.[\p{L}\d]{1,5}$/u, '').toUpperCase();
