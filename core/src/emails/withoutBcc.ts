import { endOfHeaders } from './headers';
import { joined } from './joined';

const LF = 10;
const CR = 13;
const SPACE = 32;
const TAB = 9;
const COLON = 58;
const BLIND = new Set(['bcc', 'resent-bcc']);

/**
 * A raw message without the fields that name its blind copies (RFC 5322, 3.6.3), for readers who do not have a copy that names them. All other
 * bytes stay as they are.
 */
export function withoutBcc(raw: Uint8Array): Uint8Array {
  const { headerEnd } = endOfHeaders(raw);
  const kept: Uint8Array[] = [];
  let keptFrom = 0;
  let isBlind = false;
  for (let at = 0; at < headerEnd;) {
    const next = nextLine(raw, at);
    // A line that begins no field goes with the field before it.
    const name = fieldName(raw, at, next);
    const blind: boolean = name === null ? isBlind : BLIND.has(name);
    if (blind && !isBlind) kept.push(raw.subarray(keptFrom, at));
    if (blind) keptFrom = next;
    isBlind = blind;
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

/** The name of the field that a line begins, in small letters; null where it begins none. */
function fieldName(raw: Uint8Array, from: number, to: number): string | null {
  if (raw[from] === SPACE || raw[from] === TAB) return null;
  const colon = raw.subarray(from, to).indexOf(COLON);
  if (colon < 1 || colon > 200) return null;
  const name = String.fromCharCode(...raw.subarray(from, from + colon)).trim();
  return /[\s\u0000-\u001f]/.test(name) ? null : name.toLowerCase();
}
