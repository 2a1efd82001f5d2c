import { isOneEditApart } from '../text/oneEditApart';

/** Shorter names are one letter apart from many others. */
const SHORTEST = 6;

/** Whether two domains differ by one letter of their first label: one more, one less, another, or two that changed places. The rest is the same. */
export function isNearDomain(first: string, second: string): boolean {
  if (first === second || Math.abs(first.length - second.length) > 1) return false;
  const [at, other] = [first.indexOf('.'), second.indexOf('.')];
  if (at < SHORTEST || other < SHORTEST || first.slice(at) !== second.slice(other)) return false;
  const [label, like] = [first.slice(0, at), second.slice(0, other)];
  return isOneEditApart(label, like) || areTwoSwapped(label, like);
}

function areTwoSwapped(first: string, second: string): boolean {
  if (first.length !== second.length) return false;
  let at = 0;
  while (at < first.length && first[at] === second[at]) at += 1;
  return first[at] === second[at + 1] && first[at + 1] === second[at] && first.slice(at + 2) === second.slice(at + 2);
}

/**
 * Keys of which two near domains have one in common: an edit lies in one half of the name, and the other half is the same. By the length of the
 * shorter as well as of the longer.
 */
export function nearKeys(domain: string): string[] {
  const lengths = [domain.length - 1, domain.length, domain.length + 1];
  return [...new Set(lengths.flatMap((length) => halves(domain, Math.floor((length - 1) / 2))))];
}

/** The keys under which a domain is kept. */
export const keptKeys = (domain: string): string[] => halves(domain, Math.floor((domain.length - 1) / 2));

const halves = (domain: string, length: number): string[] => [`<${domain.slice(0, length)}`, `>${domain.slice(domain.length - length)}`];
