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

/**
 * The name of a person from the display name, else from the local part of the address.
 *
 * Understands "Last, First", "Name (Company)", "Name | Company", all capitals, and the address itself as display name. From
 * a local part such as `ida.brandt` the confidence is 0.7; from one that does not part into names, and for role addresses,
 * the address itself stands with confidence 0.
 */
export function personName(displayName: string, address: string): GuessedName {
  const written = displayName
    .replace(/\s*[([{].*$/, '')
    .replace(/\s+(?:\||\/|via|at|@|–|—|-)\s+.*$/i, '')
    .replace(/^['"]+|['"]+$/g, '')
    .replace(/\s+/g, ' ')
    .trim();
  if (written && !written.includes('@')) return { name: wellCased(turned(written)), confidence: 1 };

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

/** "Brandt, Ida" becomes "Ida Brandt"; a title after a comma stays where it is. */
function turned(name: string): string {
  const parts = name.split(/\s*,\s*/);
  const [last = '', first = ''] = parts;
  if (parts.length !== 2 || !first || !last) return name;
  if (/^(?:jr|sr|ii|iii|phd|ph\.d|md|mba|msc|bsc|dipl.*|inc|ltd|gmbh|llc)\.?$/i.test(first)) return name;
  return `${first} ${last}`;
}

function wellCased(name: string): string {
  const letters = name.replace(/[^\p{L}]/gu, '');
  const shouted = letters.length > 3 && letters === letters.toUpperCase() && letters !== letters.toLowerCase();
  const whispered = letters.length > 3 && letters === letters.toLowerCase() && letters !== letters.toUpperCase();
  if (!shouted && !whispered) return name;
  return name
    .toLowerCase()
    .split(' ')
    .map((word, at) => (at > 0 && PARTICLES.has(word) ? word : capitalised(word)))
    .join(' ');
}

function capitalised(word: string): string {
  return word.toLowerCase().replace(/(^|[-'’])(\p{L})/gu, (_, before: string, letter: string) => before + letter.toUpperCase());
}
