const BRACKETED = /<\s*([^<>\s][^<>]*?)\s*>/g;
const BARE = /[^\s<>,;"()]+@[^\s<>,;"()]+/g;
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
  return (value.match(BARE) ?? []).map((id) => id.slice(0, MAX_ID));
}
