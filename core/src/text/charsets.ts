import { analyse } from 'chardet';

const ASCII = /^(?:us-?ascii|ascii|ansi_x3\.4-\d{4}|iso646-us|7bit)?$/i;
/** Charsets of one byte a character: whatever bytes come, they decode to something. */
const ONE_BYTE = /^(?:iso-?8859-?\d{1,2}(?:-[ei])?|latin-?\d|windows-?\d{3,4}|cp-?\d{3,4}|koi8-?[ru]|macintosh|x-mac-\w+)$/i;
const LABELS: Readonly<Record<string, string>> = {
  utf8: 'utf-8',
  'utf-8-sig': 'utf-8',
  cp1252: 'windows-1252',
  cp1251: 'windows-1251',
  cp1250: 'windows-1250',
};
/** So many bytes beyond ASCII have to be there for a guess to be one. */
const ENOUGH = 12;
const SURE = 30;
/** Where most letters are beyond ASCII, it is another script than ours, and the best guess is better than none. */
const LIKELY = 15;
const OTHER_SCRIPT = 0.4;

const utf8 = new TextDecoder('utf-8', { fatal: true });

function decodedBy(label: string, bytes: Uint8Array): string | null {
  try {
    return new TextDecoder(label, { fatal: true }).decode(bytes);
  } catch {
    return null;
  }
}

function asUtf8(bytes: Uint8Array): string | null {
  try {
    return utf8.decode(bytes);
  } catch {
    return null;
  }
}

/**
 * Text from its bytes and the charset that is said of them, which mail often says wrongly, or not at all. What is UTF-8 with characters beyond ASCII is that, unless
 * a charset of several bytes a character is said; else what is said, where it fits; else what the bytes are most likely to be (chardet); else Windows-1252.
 *
 * @param declared the charset as written, or an empty string
 */
export function textFrom(bytes: Uint8Array, declared: string): string {
  const label = LABELS[declared.trim().toLowerCase()] ?? declared.trim().toLowerCase();
  let beyond = 0;
  for (const byte of bytes) if (byte > 0x7f) beyond += 1;
  const isPlain = label === 'utf-8' || ASCII.test(label) || ONE_BYTE.test(label) || decodedBy(label, NOTHING) === null;
  if (beyond === 0 && isPlain) return asUtf8(bytes) ?? '';
  const found = isPlain ? asUtf8(bytes) : null;
  if (found !== null) return found;
  const said = label === 'utf-8' || ASCII.test(label) ? null : decodedBy(label, bytes);
  if (said !== null) return said;
  if (beyond >= ENOUGH) {
    for (const { name, confidence } of analyse(bytes)) {
      if (confidence < (beyond > bytes.length * OTHER_SCRIPT ? LIKELY : SURE) || /^utf-(?:16|32)/i.test(name)) continue;
      const guessed = decodedBy(name === 'ISO-8859-1' ? 'windows-1252' : name.toLowerCase(), bytes);
      if (guessed !== null) return guessed;
    }
  }
  return new TextDecoder('windows-1252').decode(bytes);
}

const NOTHING = new Uint8Array();

/** Bytes of a text that was decoded by Windows-1252, which gives each byte a character of its own. */
export function bytesOf1252(text: string): Uint8Array {
  const bytes = new Uint8Array(text.length);
  for (let at = 0; at < text.length; at += 1) {
    const code = text.charCodeAt(at);
    bytes[at] = code < 0x100 ? code : (HIGH.get(code) ?? 0x3f);
  }
  return bytes;
}

const HIGH = new Map(
  [...new TextDecoder('windows-1252').decode(Uint8Array.from({ length: 32 }, (_, at) => 0x80 + at))].map((char, at) => [
    char.charCodeAt(0),
    0x80 + at,
  ]),
);
