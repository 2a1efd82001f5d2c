import type { DealRecord, Directory } from '../records/directory';
import { ownText } from '../emails/bodyParts';

const CODE = /[\p{L}\d]+(?:[-_/.#][\p{L}\d]+)*/gu;
/** A code whose letters and number are written apart: `QH 2041`, `QH #2041`. */
const CODE_APART = /(?<![\p{L}\d])\p{L}{1,6}[\s:#]+\d{3,}[\p{L}\d]*(?![-/.]?[\p{L}\d])/gu;
const MOST_OF_TEXT = 100;

/** Words of a subject that may be a reference code, in capitals: at least four characters, one of them a digit. */
export function codeWords(subject: string): string[] {
  if (!/\d/.test(subject)) return [];
  const words = [...subject.matchAll(CODE)].map(([word]) => word.toUpperCase()).filter((word) => word.length >= 4 && /\d/.test(word));
  const apart = [...subject.matchAll(CODE_APART)].map(([words]) => words.toUpperCase().replace(/[\s:#]+/, ' '));
  return apart.length === 0 ? words : [...words, ...apart];
}

/**
 * Words of what the sender wrote that may be a reference code; not of what is quoted. A code in a text has a letter, too: bare
 * numbers there are telephones, dates and sums.
 */
export function codeWordsOfText(text: string): string[] {
  if (!/\d/.test(text)) return [];
  return [...new Set(codeWords(ownText(text)).filter((word) => /\p{L}/u.test(word)))].slice(0, MOST_OF_TEXT);
}

/** A deal that a text names by its code, or by one that it had before. */
export interface CodedDeal {
  deal: DealRecord;
  code: string;
}

/** The deals that these words name, each once, in order. */
export function dealsWithCodes(words: readonly string[], directory: Directory): CodedDeal[] {
  const found: CodedDeal[] = [];
  for (const code of words) {
    const deal = directory.dealWithCode(code);
    if (deal && !found.some((item) => item.deal === deal)) found.push({ deal, code });
  }
  return found;
}
