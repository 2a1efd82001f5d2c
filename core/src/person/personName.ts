import { plainLetters } from '../text/plainLetters';
import { isRoleLocal } from '../address/address';

/** A person's name and how sure it is: 1 as written, less when guessed. */
export interface GuessedName {
  name: string;
  confidence: number;
}

const PARTICLES = new Set([
  'de',
  'da',
  'do',
  'dos',
  'del',
  'della',
  'di',
  'du',
  'van',
  'von',
  'der',
  'den',
  'ter',
  'la',
  'le',
  'el',
  'al',
  'bin',
  'ibn',
  'af',
  'av',
  'y',
  'e',
  'zu',
]);

/** Forms of address before a name, which are no part of it; titles are. */
const ADDRESSED =
  /^(?:mr|mrs|ms|miss|mister|herrn?|frau|fr|hr|hrn|mme|mlle|monsieur|madame|m|sra?|srta|sig|sig\.ra|dhr|mevr|mw)(?:\.\s*|\s+)(?=\p{Lu})/iu;
/** Degrees behind a name. */
const DEGREE = /,\s*(?:ph\.?\s?d|mba|m\.?\s?sc|b\.?\s?sc|m\.?a|b\.?a|md|llm|cpa|pe|p\.eng|dipl\.?[-\p{L}.]*)\.?(?=,|$)/giu;

/**
 * The name of a person from the display name, else from the local part of the address.
 *
 * Understands "Last, First", "LAST First", "Name (Company)", "Name | Company", "Name, Company" and "Last First" where the address tells, forms of
 * address, capitals, dots in place of blanks, and the address itself as display name. From a local part such as `ida.brandt` the confidence is 0.7; from one that
 * does not part into names, and for role addresses, the address itself stands with confidence 0.
 */
export function personName(displayName: string, address: string): GuessedName {
  const written = displayName
    .replace(/\s*<[^<>]*>?\s*$/, '')
    .replace(/\s*[([{].*$/, '')
    .replace(/\s+(?:\||\/|via|at|@|–|—|-)\s+.*$/i, '')
    .replace(/(?<=\S)\/\S.*$/, '')
    .replace(/[\s|/–—-]+$/, '')
    .replace(/^['"]+|['"]+$/g, '')
    .replace(/\s+/g, ' ')
    .replace(DEGREE, '')
    .trim()
    .replace(ADDRESSED, '');
  if (written && !written.includes('@')) return { name: wellCased(turned(spaced(written), localWords(address))), confidence: 1 };

  const local = address.slice(0, address.lastIndexOf('@'));
  if (isRoleLocal(local)) return { name: address, confidence: 0 };
  const words = local
    .replace(/\d+$/, '')
    .split(/[._-]+/)
    .filter((word) => /^\p{L}{1,}$/u.test(word));
  const whole = words.length >= 2 && words.some((word) => word.length > 1);
  if (whole)
    return { name: words.map((word) => (word.length === 1 ? `${word.toUpperCase()}.` : capitalised(word))).join(' '), confidence: 0.7 };
  return { name: address, confidence: 0 };
}

const localWords = (address: string): string[] => plainWords(address.slice(0, address.lastIndexOf('@')));

/** Words without marks, in small letters, as addresses have them. */
export const plainWords = (text: string): string[] =>
  plainLetters(text)
    .split(/[^\p{L}]+/u)
    .filter(Boolean);

/** "Ida.Brandt" and "ida_brandt" are two words. */
const spaced = (name: string): string => (/^\p{L}{2,}(?:[._]\p{L}{2,})+$/u.test(name) ? name.replace(/[._]/g, ' ') : name);

/**
 * "Brandt, Ida" and "BRANDT Ida" become "Ida Brandt", and "Brandt Ida" where the address begins with the given name; a title after a comma stays where it is, and a
 * company there goes, where the address tells that the name stands before it.
 */
function turned(name: string, inAddress: readonly string[]): string {
  const parts = name.split(/\s*,\s*/);
  const [last = '', first = ''] = parts;
  if (parts.length === 1) return turnedWords(name, inAddress);
  if (parts.length !== 2 || !first || !last) return name;
  if (/^(?:jr|sr|ii|iii|inc|ltd|gmbh|llc)\.?$/i.test(first)) return name;
  const before = plainWords(last);
  const isWhole = before.length > 1 && before[0] === inAddress[0] && before.some((word, at) => at > 0 && inAddress.includes(word));
  if (isWhole && !plainWords(first).some((word) => inAddress.includes(word))) return last;
  return `${first} ${last}`;
}

/** What abbreviations have none of. */
const VOWEL = /[AEIOUYÄÖÜÅØÆÉÈ]/u;
const isParticle = (word: string): boolean => PARTICLES.has(word.toLowerCase());
const isShouted = (word: string): boolean =>
  /^\p{Lu}[\p{Lu}'’-]{2,}$/u.test(word) || (word.length > 1 && word === word.toUpperCase() && isParticle(word));

function turnedWords(name: string, inAddress: readonly string[]): string {
  const words = name.split(' ');
  const [first = '', second = ''] = words;
  // A family name in capitals stands before the given name; abbreviations have no vowel.
  const shouted = words.findIndex((word) => !isShouted(word) && !isParticle(word));
  if (shouted > 0 && words.slice(0, shouted).some((word) => isShouted(word) && VOWEL.test(word)))
    return [...words.slice(shouted), ...words.slice(0, shouted)].join(' ');
  const [a = '', b = ''] = [plainWords(first).join(''), plainWords(second).join('')];
  return words.length === 2 && inAddress.length === 2 && inAddress[0] === b && inAddress[1] === a && a !== b ? `${second} ${first}` : name;
}

function wellCased(name: string): string {
  const letters = name.replace(/[^\p{L}]/gu, '');
  const shouted = letters.length > 3 && letters === letters.toUpperCase() && letters !== letters.toLowerCase();
  const whispered = letters.length > 3 && letters === letters.toLowerCase() && letters !== letters.toUpperCase();
  if (!shouted && !whispered) {
    // One word in capitals among others is a family name that is written so.
    const words = name.split(' ');
    return words.length > 1 && words.some((word) => !isShouted(word))
      ? words
          .map((word) => (isShouted(word) && VOWEL.test(word) ? (isParticle(word) ? word.toLowerCase() : capitalised(word)) : word))
          .join(' ')
      : name;
  }
  return name
    .toLowerCase()
    .split(' ')
    .map((word, at) => (at > 0 && PARTICLES.has(word) ? word : capitalised(word)))
    .join(' ');
}

function capitalised(word: string): string {
  return word.toLowerCase().replace(/(^|[-'’])(\p{L})/gu, (_, before: string, letter: string) => before + letter.toUpperCase());
}
