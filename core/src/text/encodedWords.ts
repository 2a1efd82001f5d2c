import { textFrom } from './charsets';

/** An encoded word (RFC 2047 section 2), with a language behind the charset (RFC 2231); blanks within, as some programs write them, are let be. */
const ENCODED = /=\?([^?\s*]+)(?:\*[^?]*)?\?([bq])\?([^?]*)\?=/gi;
const MOST = 1_500_000;

/**
 * A header value with its encoded words decoded. The bytes of words that follow one another in one charset are joined before they are decoded: programs cut
 * them inside a character, though RFC 2047 section 5 forbids it. White space between encoded words is not text (section 6.2).
 */
export function decodedWords(value: string): string {
  if (!value.includes('=?')) return value;
  const once = decodedOnce(value);
  // Some gateways encode what is encoded already.
  return ALL_ENCODED.test(once) ? decodedOnce(once) : once;
}

const ALL_ENCODED = /^(?:\s*=\?[^?\s]{1,40}\?[bq]\?[^?\s]*\?=)+\s*$/i;

function decodedOnce(value: string): string {
  const out: string[] = [];
  let charset = '';
  let bytes: Uint8Array[] = [];
  const flush = (): void => {
    if (bytes.length > 0) out.push(textFrom(joined(bytes), charset));
    bytes = [];
  };
  let end = 0;
  for (const match of value.slice(0, MOST).matchAll(ENCODED)) {
    const [whole, label = '', how = '', content = ''] = match;
    const between = value.slice(end, match.index);
    const follows = bytes.length > 0 && /^\s*$/.test(between);
    if (!follows) {
      flush();
      out.push(between);
    } else if (label.toLowerCase() !== charset) flush();
    charset = label.toLowerCase();
    bytes.push(how.toLowerCase() === 'b' ? fromBase64(content) : fromQ(content));
    end = match.index + whole.length;
  }
  flush();
  out.push(value.slice(end));
  return out.join('');
}

function joined(parts: readonly Uint8Array[]): Uint8Array {
  const [only] = parts;
  if (only && parts.length === 1) return only;
  const all = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    all.set(part, at);
    at += part.length;
  }
  return all;
}

const BASE64 = new Map([...'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/'].map((char, at) => [char, at]));

/** What is no base64 is passed over; a last group that is cut short gives the bytes that it has. */
function fromBase64(text: string): Uint8Array {
  const bytes: number[] = [];
  let bits = 0;
  let held = 0;
  for (const char of text) {
    const value = BASE64.get(char);
    if (value === undefined) continue;
    held = (held << 6) | value;
    bits += 6;
    if (bits < 8) continue;
    bits -= 8;
    bytes.push((held >> bits) & 0xff);
    held &= (1 << bits) - 1;
  }
  return Uint8Array.from(bytes);
}

function fromQ(text: string): Uint8Array {
  const bytes: number[] = [];
  for (let at = 0; at < text.length; at += 1) {
    const char = text.charCodeAt(at);
    const hex = char === 0x3d ? /^[\da-f]{2}/i.exec(text.slice(at + 1, at + 3))?.[0] : undefined;
    if (hex !== undefined) {
      bytes.push(parseInt(hex, 16));
      at += 2;
    } else if (char === 0x5f) bytes.push(0x20);
    else if (char < 0x80) bytes.push(char);
    else bytes.push(...new TextEncoder().encode(text.charAt(at)));
  }
  return Uint8Array.from(bytes);
}
