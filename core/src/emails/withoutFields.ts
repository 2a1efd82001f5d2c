import { endOfHeaders } from './headers';
import { joined } from './joined';

const LF = 10;
const CR = 13;
const SPACE = 32;
const TAB = 9;
const COLON = 58;
const LONGEST_NAME = 200;
const BLIND = new Set(['bcc', 'resent-bcc']);
/** Fields that say nothing of the body's structure, and cost a MIME library much when they are long. */
const PEOPLE = new Set([
  ...['from', 'sender', 'reply-to', 'to', 'cc', 'bcc', 'delivered-to', 'return-path'],
  ...['received', 'references', 'in-reply-to'],
]);

/**
 * A raw message without the fields that name its blind copies (RFC 5322, 3.6.3), for readers who do not have a copy that names them. All other
 * bytes stay as they are.
 */
export const withoutBcc = (raw: Uint8Array): Uint8Array => withoutFields(raw, BLIND);

const LIST = new Set(['list-unsubscribe', 'list-unsubscribe-post']);

/** A raw message of ours without the fields that make a list of it: its writer keeps it as an email to one person. */
export const withoutListFields = (raw: Uint8Array): Uint8Array => withoutFields(raw, LIST);

/** The message without the fields of people and routes, byte for byte otherwise: for a MIME library that is asked for the body alone. */
export function withoutPeopleFields(raw: Uint8Array): Uint8Array {
  // Here a MIME library finds no header at all.
  return raw[0] === LF || raw[0] === CR ? raw : withoutFields(raw, PEOPLE);
}

function withoutFields(raw: Uint8Array, dropped: ReadonlySet<string>): Uint8Array {
  const { headerEnd } = endOfHeaders(raw);
  const kept: Uint8Array[] = [];
  let keptFrom = 0;
  let isDropped = false;
  for (let at = 0; at < headerEnd;) {
    const next = nextLine(raw, at);
    // A line that begins no field goes with the field before it.
    const name = fieldName(raw, at, next);
    const drops: boolean = name === null ? isDropped : dropped.has(name);
    if (drops && !isDropped) kept.push(raw.subarray(keptFrom, at));
    if (drops) keptFrom = next;
    isDropped = drops;
    at = next;
  }
  if (kept.length === 0) return raw;
  kept.push(raw.subarray(keptFrom));
  return joined(kept);
}

function nextLine(raw: Uint8Array, at: number): number {
  for (let end = at; end < raw.length; end += 1) {
    if (raw[end] === LF) return end + 1;
    if (raw[end] === CR) return raw[end + 1] === LF ? end + 2 : end + 1;
  }
  return raw.length;
}

/** The name of the field that a line begins, in small letters; null where it begins none. The first line continues nothing, whatever it begins with. */
function fieldName(raw: Uint8Array, from: number, to: number): string | null {
  if (from > 0 && (raw[from] === SPACE || raw[from] === TAB)) return null;
  const colon = raw.subarray(from, Math.min(to, from + LONGEST_NAME)).indexOf(COLON);
  if (colon < 1) return null;
  const name = String.fromCharCode(...raw.subarray(from, from + colon)).trim();
  return name === '' || /[\s\u0000-\u001f]/.test(name) ? null : name.toLowerCase();
}
