import { nameKey } from '../person/nameKey';
import { isOneEditApart } from '../text/oneEditApart';

/** The parts of a name in comparable form; initials stay. */
export function nameTokens(name: string): string[] {
  return name
    .normalize('NFKD')
    .toLowerCase()
    .replace(/\p{M}/gu, '')
    .split(/[^\p{L}\d]+/u)
    .filter(Boolean);
}

/** 1 for the same name in any order and spelling of marks; less for initials, one letter more, less, other or swapped; 0 for different names. */
export function nameLikeness(first: string, second: string): number {
  if (nameKey(first) !== '' && nameKey(first) === nameKey(second)) return 1;
  return tokenListLikeness(nameTokens(first), nameTokens(second));
}

/** The same for the parts of two names that are not the same. */
export function tokenListLikeness(first: readonly string[], second: readonly string[]): number {
  const [short, long] = first.length <= second.length ? [first, second] : [second, first];
  if (short.length === 0) return 0;
  const free = [...long];
  let sum = 0;
  let whole = 0;
  for (const token of short) {
    let best = 0;
    let at = -1;
    free.forEach((candidate, index) => {
      const likeness = tokenLikeness(token, candidate);
      if (likeness > best) [best, at] = [likeness, index];
    });
    // One part of the name that is quite another makes another name.
    if (at < 0) return 0;
    free.splice(at, 1);
    sum += best;
    if (best > INITIAL) whole += 1;
  }
  // Initials alone, or one name of two, are too little.
  if (whole === 0 || (short.length === 1 && long.length > 1)) return 0;
  return (sum / short.length) * (free.length === 0 ? 1 : 0.9);
}

const INITIAL = 0.7;

function tokenLikeness(first: string, second: string): number {
  if (first === second) return 1;
  const [short, long] = first.length <= second.length ? [first, second] : [second, first];
  if (short.length === 1) return long.startsWith(short) ? INITIAL : 0;
  if (short.length < 4) return 0;
  return isOneSlipApart(short, long) ? 0.88 : 0;
}

/** One letter more, less or other, or two neighbours swapped. */
function isOneSlipApart(first: string, second: string): boolean {
  if (isOneEditApart(first, second)) return true;
  if (first.length !== second.length || first === second) return false;
  let at = 0;
  while (first[at] === second[at]) at += 1;
  return first[at] === second[at + 1] && first[at + 1] === second[at] && first.slice(at + 2) === second.slice(at + 2);
}
