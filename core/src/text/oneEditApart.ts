/** One letter more, less, or another. */
export function isOneEditApart(first: string, second: string): boolean {
  if (first === second || Math.abs(first.length - second.length) > 1) return false;
  const [short, long] = first.length <= second.length ? [first, second] : [second, first];
  let at = 0;
  while (at < short.length && short[at] === long[at]) at += 1;
  return short.length === long.length ? short.slice(at + 1) === long.slice(at + 1) : short.slice(at) === long.slice(at + 1);
}
