import { decodedWords } from '../text/encodedWords';
import { addressTokens } from './addressTokens';
import type { Token } from './addressTokens';

/** One mailbox named in an address header. */
export interface WrittenAddress {
  /** Display name, decoded and unquoted; empty when none was written. */
  name: string;
  /** The address as written, without brackets and comments. */
  address: string;
  /** Name of the group that the address stood in (RFC 5322, 3.4), else null. */
  group: string | null;
}

const MAX_ADDRESSES = 20_000;
/** What is longer is joined no further: no address is (RFC 5321, section 4.5.3.1). */
const LONGEST_ADDRESS = 320;

/**
 * Reads the addresses of a From, To, Cc, Bcc, Sender or Reply-To value.
 *
 * Follows RFC 5322 section 3.4 with the obsolete forms of section 4.4 (source routes, comments, empty list members) and
 * what is met in real mail: semicolons between addresses, missing commas, unquoted commas in names, encoded words around
 * whole addresses, an unclosed bracket. A member without any address is left out; no address that stands in the value is
 * lost. Never throws. At most 20,000 addresses are read.
 *
 * @param value unfolded header value, encoded words not yet decoded
 */
export function parseAddressList(value: string): WrittenAddress[] {
  const found: WrittenAddress[] = [];
  let group: string | null = null;
  let words: Token[] = [];
  let hasAddress = false;

  const closeMember = (): void => {
    if (words.length > 0) readMember(words, group, found);
    words = [];
    hasAddress = false;
  };

  for (const token of addressTokens(value)) {
    if (found.length >= MAX_ADDRESSES) break;
    if (token.kind !== 'mark') {
      words.push(token);
      hasAddress ||= holdsAddress(token);
      // "a@x.example <b@x.example> c@x.example" written without commas: what follows a bracket starts a new member.
      if (token.kind === 'angle') closeMember();
      continue;
    }
    if (token.value === ':' && !hasAddress) {
      group = decodedWords(words.map((word) => word.value).join(' '));
      words = [];
      continue;
    }
    // `Brandt, Ida <ida@…>`: words without an address before a comma belong to the name that follows.
    if (token.value === ',' && words.length > 0 && !hasAddress) {
      words.push({ kind: 'text', value: ',' });
      continue;
    }
    closeMember();
    if (token.value === ';') group = null;
  }
  closeMember();
  return found;
}

function holdsAddress(token: Token): boolean {
  return token.kind === 'angle' || (token.kind === 'text' && /\S@\S/.test(token.value));
}

function readMember(words: Token[], group: string | null, found: WrittenAddress[]): void {
  const angle = words.find((word) => word.kind === 'angle');
  const comments = words.filter((word) => word.kind === 'comment').map((word) => word.value);
  const spoken = words.filter((word) => word.kind === 'text' || word.kind === 'quoted');

  if (angle) {
    const address = cleanAddress(angle.value);
    const name = nameFrom(spoken) || nameFrom(comments.map((value) => ({ kind: 'text', value })));
    if (address) found.push({ name, address, group });
    else readBare(spoken, comments, group, found);
    return;
  }
  readBare(spoken, comments, group, found);
}

/** A member without brackets: each word with an `@` is an address, the rest is its name. */
function readBare(spoken: Token[], comments: string[], group: string | null, found: WrittenAddress[]): void {
  const joined = joinLocalParts(spoken);
  const addresses: string[] = [];
  const names: Token[] = [];
  for (const word of joined) {
    const unwrapped = word.kind === 'text' && word.value.startsWith('=?') ? decodedWords(word.value) : '';
    if (unwrapped.includes('@') && /[\s<]/.test(unwrapped)) {
      // An encoded word around a whole member, brackets and all.
      found.push(...parseAddressList(unwrapped).map((address) => ({ ...address, group })));
      continue;
    }
    const text = word.kind === 'quoted' && !word.value.includes('@') ? '' : decodedWords(word.value);
    const pieces = text.includes('@') ? (text.match(/[^\s<>,;()]+@[^\s<>,;()]+/g) ?? []) : [];
    if (word.kind === 'text' && /^"(?:[^"\\]|\\.)*"@\S+$/.test(word.value)) addresses.push(word.value);
    else if (pieces.length > 0) addresses.push(...pieces);
    else names.push(word);
  }
  const name = nameFrom(names) || comments.map(decodedWords).join(' ').trim();
  addresses.forEach((written, position) => {
    const address = cleanAddress(written);
    if (address) found.push({ name: position === 0 ? name : '', address, group });
  });
}

/** Puts `"quoted local"` and `@domain` back together, and text split by white space around an `@`. */
function joinLocalParts(words: Token[]): Token[] {
  const joined: Token[] = [];
  for (const word of words) {
    const last = joined.at(-1);
    if (last && last.value.length > LONGEST_ADDRESS) joined.push(word);
    else if (last && word.kind === 'text' && word.value.startsWith('@') && word.value.length > 1) {
      const local = last.kind === 'quoted' ? JSON.stringify(last.value) : last.value;
      joined[joined.length - 1] = { kind: 'text', value: local + word.value };
    } else if (last?.kind === 'text' && last.value.endsWith('@') && word.kind === 'text') {
      joined[joined.length - 1] = { kind: 'text', value: last.value + word.value };
    } else joined.push(word);
  }
  return joined;
}

function nameFrom(words: readonly { kind: string; value: string }[]): string {
  const text = words
    .map((word) => word.value)
    .join(' ')
    .replace(/ ,/g, ',');
  return decodedWords(text)
    .replace(/^["'\s]+|["'\s,]+$/g, '')
    .replace(/\s+/g, ' ');
}

function cleanAddress(written: string): string {
  let address = decodedWords(written).trim();
  // Source route, RFC 5322 section 4.4: "@relay.example,@other.example:person@x.example".
  if (address.startsWith('@') && address.includes(':')) address = address.slice(address.indexOf(':') + 1);
  address = address.replace(/^mailto:/i, '').replace(/^['<\s]+|['>\s.]+$/g, '');
  if (!address.startsWith('"')) address = address.replace(/\s+/g, '');
  const at = address.lastIndexOf('@');
  return at > 0 && at < address.length - 1 ? address : '';
}
