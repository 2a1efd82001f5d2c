/** One letter more, less, or another. */
export function isOneEditApart(one: string, other: string): boolean {
  if (one === other || Math.abs(one.length - other.length) > 1) return false;
  const [short, long] = one.length <= other.length ? [one, other] : [other, one];
  let at = 0;
  while (at < short.length && short[at] === long[at]) at += 1;
  return short.length === long.length ? short.slice(at + 1) === long.slice(at + 1) : short.slice(at) === long.slice(at + 1);
}
