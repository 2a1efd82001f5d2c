import { cleanText } from '../text/cleanText';
import { decodedWords } from '../text/encodedWords';

/** One header field, unfolded, encoded words not decoded. */
export interface HeaderField {
  /** Lower-case field name. */
  name: string;
  value: string;
}

/** The header fields of a message and where its body begins. */
export interface HeaderBlock {
  fields: HeaderField[];
  /** Offset in bytes of the first byte of the body. */
  bodyStart: number;
  /** True when a field was longer than {@link MAX_FIELD} and was cut. */
  shortened: boolean;
}

/** Longest header field that is read, in bytes: room for 20,000 recipients. */
export const MAX_FIELD = 1_500_000;
/** Longest header block that is read, in bytes; what lies behind is skipped. */
const MAX_BLOCK = 32_000_000;

const utf8 = new TextDecoder('utf-8', { fatal: true });
const latin1 = new TextDecoder('windows-1252');

function decodeBytes(bytes: Uint8Array): string {
  try {
    return utf8.decode(bytes);
  } catch {
    return latin1.decode(bytes);
  }
}

/**
 * Reads the header block of a raw message (RFC 5322 section 2.2), with LF, CRLF or CR line ends.
 *
 * Raw 8-bit text is read as UTF-8 (RFC 6532) and, where it is none, as Windows-1252. A line that is neither a field nor a
 * continuation is skipped when fields follow, and ends the block when it stands at its very start. Never throws.
 */
export function readHeaders(raw: Uint8Array): HeaderBlock {
  const end = endOfHeaders(raw);
  let shortened = end.headerEnd > MAX_BLOCK;
  const text = decodeBytes(raw.subarray(0, Math.min(end.headerEnd, MAX_BLOCK)));
  const fields: HeaderField[] = [];
  const parts: string[] = [];
  let name = '';
  let length = 0;

  const close = (): void => {
    if (name) fields.push({ name, value: cleanText(parts.join('')).trim() });
    name = '';
    parts.length = 0;
    length = 0;
  };

  for (const line of text.split(/\r\n|\n|\r/)) {
    if (line.startsWith(' ') || line.startsWith('\t')) {
      if (!name) continue;
      if (length > MAX_FIELD) {
        shortened = true;
        continue;
      }
      parts.push(' ', line.trim());
      length += line.length;
      continue;
    }
    const colon = line.indexOf(':');
    if (colon < 1 || /[\s\u0000-\u001f]/.test(line.slice(0, colon).trimEnd())) continue;
    close();
    name = line.slice(0, colon).trim().toLowerCase();
    const value = line.slice(colon + 1);
    if (value.length > MAX_FIELD) shortened = true;
    parts.push(value.slice(0, MAX_FIELD));
    length = value.length;
  }
  close();
  return { fields, bodyStart: end.bodyStart, shortened };
}

/** Where the header of a raw message ends, and where its body begins, in bytes. */
export function endOfHeaders(raw: Uint8Array): { headerEnd: number; bodyStart: number } {
  for (let at = 0; at < raw.length; at += 1) {
    if (raw[at] !== 0x0a) continue;
    const next = raw[at + 1];
    if (next === 0x0a) return { headerEnd: at + 1, bodyStart: at + 2 };
    if (next === 0x0d && raw[at + 2] === 0x0a) return { headerEnd: at + 1, bodyStart: at + 3 };
  }
  return { headerEnd: raw.length, bodyStart: raw.length };
}

/** First value of a field, or an empty string. */
export function headerValue(fields: readonly HeaderField[], name: string): string {
  return fields.find((field) => field.name === name)?.value ?? '';
}

/** All values of a field that may stand more than once, in order. */
export function headerValues(fields: readonly HeaderField[], name: string): string[] {
  return fields.filter((field) => field.name === name).map((field) => field.value);
}

/** An unstructured value with its encoded words (RFC 2047) decoded. */
export function decodedText(value: string): string {
  return cleanText(decodedWords(value));
}
