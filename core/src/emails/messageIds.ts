// Linear in time, whatever a header holds: no part of one pattern can match what its neighbour matches.
const BRACKETED = /<([^<>]*)>/g;
const BETWEEN_BARE = /[\s<>,;"()]+/;
const MAX_ID = 400;

/**
 * The message ids in a Message-ID, In-Reply-To or References value (RFC 5322 section 3.6.4), in order, without brackets.
 *
 * White space inside brackets (ids broken by folding) is dropped; ids without brackets are taken when no bracketed one is
 * there. Ids are compared exactly, as RFC 5256 does.
 */
export function messageIds(value: string): string[] {
  const found: string[] = [];
  for (const match of value.matchAll(BRACKETED)) {
    const id = (match[1] ?? '').replace(/\s+/g, '').slice(0, MAX_ID);
    if (id) found.push(id);
  }
  if (found.length > 0) return found;
  return value
    .split(BETWEEN_BARE)
    .filter((id) => /^[^@].*@./s.test(id))
    .map((id) => id.slice(0, MAX_ID));
}
