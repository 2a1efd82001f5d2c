import { nameKey } from '../person/nameKey';
import type { DealRecord } from '../records/directory';

const WORD = /[\p{L}\d]{3,}/gu;
/** Words in the names of deals, or between them, that name nothing. */
const SAYS_NOTHING: ReadonlySet<string> = new Set(
  (
    'the and for with from der die das und für von mit les des une pour avec del los las por para con og med til för och voor van het een ' +
    'new neu neue neuer neues nouveau nouvelle nuevo nueva ny nye'
  ).split(' '),
);
/** Words that are names of matters, not of one deal, where they are all of its name. */
const GENERAL: ReadonlySet<string> = new Set(
  (
    'service maintenance wartung support offer angebot quote quotation delivery lieferung order bestellung invoice rechnung meeting termin visit besuch training schulung project projekt ' +
    'projet proyecto contract vertrag contrat repair reparatur spare parts ersatzteile installation montage inspection upgrade update renewal request anfrage information'
  ).split(' '),
);
const SHORTEST_ALONE = 5;

/** Words by the form in which they are compared: in small letters, a plural as its singular. */
export function wordsOf(text: string): Map<string, string> {
  return new Map([...text.toLowerCase().matchAll(WORD)].map(([word]) => [word.length > 4 ? word.replace(/s$/, '') : word, word]));
}

/** The words of a text in their order and the form in which they are compared, without those that say nothing. */
export function comparableWords(text: string): string[] {
  const found: string[] = [];
  for (const [word] of text.toLowerCase().matchAll(WORD)) {
    const key = word.length > 4 ? word.replace(/s$/, '') : word;
    if (!SAYS_NOTHING.has(key)) found.push(key);
  }
  return found;
}

/** The names of a deal, each as its words, without its company's and without those that say nothing. */
type NamesAsWords = readonly (readonly string[])[];

const namesByDeal = new WeakMap<DealRecord, { company: string; names: NamesAsWords }>();

function namesOf(deal: DealRecord, company: string): NamesAsWords {
  const known = namesByDeal.get(deal);
  if (known?.company === company) return known.names;
  const ofCompany = wordsOf(nameKey(company));
  const names = [deal.name, ...(deal.formerNames ?? [])].map((name) =>
    [...wordsOf(name).keys()].filter((word) => !ofCompany.has(word) && !SAYS_NOTHING.has(word)),
  );
  namesByDeal.set(deal, { company, names });
  return names;
}

/** A deal whose name a subject spells out, with the words by which. */
export interface NamedDeal {
  deal: DealRecord;
  words: readonly string[];
}

/**
 * The deals whose whole name stands in a subject: every word of it but the company's. A name within a longer one that stands there as well is not
 * meant. One word alone has to be one that no other of these deals has, and that names more than a matter in general.
 */
export function dealsNamed(subject: string, deals: readonly DealRecord[], companyOf: (deal: DealRecord) => string): readonly NamedDeal[] {
  if (deals.length === 0 || subject === '') return NONE;
  const lower = subject.toLowerCase();
  let said: ReadonlyMap<string, string> | null = null;
  const found: NamedDeal[] = [];
  for (const deal of deals) {
    for (const words of namesOf(deal, companyOf(deal))) {
      // Most subjects name no deal: that is seen before they are taken apart.
      if (words.length === 0 || !words.every((word) => lower.includes(word))) continue;
      const all = (said ??= wordsOf(subject));
      if (!words.every((word) => all.has(word)) || (words.length === 1 && !standsAlone(words[0] ?? '', deal, deals, companyOf))) continue;
      found.push({ deal, words: words.map((word) => all.get(word) ?? word) });
      break;
    }
  }
  if (found.length < 2) return found;
  return found.filter(
    (item) =>
      !found.some(
        (other) => other !== item && other.words.length > item.words.length && item.words.every((word) => other.words.includes(word)),
      ),
  );
}

const NONE: readonly NamedDeal[] = [];

function standsAlone(word: string, deal: DealRecord, deals: readonly DealRecord[], companyOf: (deal: DealRecord) => string): boolean {
  if (word.length < SHORTEST_ALONE || GENERAL.has(word) || /^\d+$/.test(word)) return false;
  return deals.every((other) => other === deal || !namesOf(other, companyOf(other)).some((words) => words.includes(word)));
}
