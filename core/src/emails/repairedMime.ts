import type { Email } from 'postal-mime';
import { bytesOf1252, textFrom } from '../text/charsets';
import { decodedWords } from '../text/encodedWords';

/** What stands for a byte that could not be read. */
const LOST = '\ufffd';
/** UTF-8 that was read by a charset of one byte a character: an umlaut as two signs. */
const MISREAD = /[ÂÃÐÑÅÄÎ][\u0080-\u00bf\u0152\u0153\u0160\u0161\u0178\u017d\u017e\u0192\u02c6\u02dc\u2013-\u203a\u20ac\u2122]/;
const TEXT_TYPE = /^(content-type[ \t]*:[ \t]*text\/(?:plain|html)\b[^\n]*(?:\n[ \t][^\n]*)*)/gim;
const CHARSET = /;?\s*charset\s*=\s*("[^"\n]*"|[^\s;"]+)/i;
const NAMES = /((?:file)?name\s*=\s*"?)((?:=\?[^?\s]+\?[bq]\?[^?]*\?=\s*){2,})/gi;
/** Larger messages are not read a second time. */
const MOST_BYTES = 4_000_000;

/** Whether what was read says that a charset was declared wrongly, or that an encoded name was cut inside a character. */
function isMisread(email: Email): boolean {
  const texts = [email.text ?? '', email.html ?? '', ...email.attachments.map((attachment) => attachment.filename ?? '')];
  return texts.some((text) => text.includes(LOST) || MISREAD.test(text));
}

/**
 * An email whose texts, where they were misread, are read again by what their bytes are, and its names of files by whole characters.
 *
 * @param parse reads a message
 * @returns the email with its texts and names corrected; the same where nothing was gained
 */
export async function readAgain(raw: Uint8Array, email: Email, parse: (raw: Uint8Array) => Promise<Email | null>): Promise<Email> {
  if (!isMisread(email) || raw.length > MOST_BYTES) return email;
  const source = new TextDecoder('windows-1252').decode(raw);
  let declared = '';
  const withCharset = source.replace(/\r\n/g, '\n').replace(TEXT_TYPE, (header: string) => {
    const [whole = '', label = ''] = CHARSET.exec(header) ?? [];
    declared ||= label.replaceAll('"', '');
    return `${whole === '' ? header.trimEnd() : header.replace(whole, '')}; charset=windows-1252`;
  });
  const hasType = /^content-type[ \t]*:/im.test(withCharset.slice(0, Math.max(0, withCharset.indexOf('\n\n'))));
  const typed = hasType ? withCharset : `Content-Type: text/plain; charset=windows-1252\n${withCharset}`;
  const named = typed.replace(
    NAMES,
    (_, before: string, words: string) => `${before}=?utf-8?B?${base64(new TextEncoder().encode(decodedWords(words.trim())))}?=`,
  );
  const again = await parse(bytesOf1252(named));
  if (!again) return email;
  const read = (text: string | undefined): string | undefined => (text === undefined ? undefined : textFrom(bytesOf1252(text), declared));
  const better = (first: string | undefined, second: string | undefined): string | undefined =>
    first !== undefined && second !== undefined && (first.includes(LOST) || MISREAD.test(first)) && !second.includes(LOST) ? second : first;
  const text = better(email.text, read(again.text));
  const html = better(email.html, read(again.html));
  return {
    ...email,
    ...(text === undefined ? {} : { text }),
    ...(html === undefined ? {} : { html }),
    attachments: email.attachments.map((attachment, at) => {
      const filename = better(attachment.filename ?? undefined, again.attachments[at]?.filename ?? undefined);
      return filename === undefined ? attachment : { ...attachment, filename };
    }),
  };
}

function base64(bytes: Uint8Array): string {
  let binary = '';
  for (const byte of bytes) binary += String.fromCharCode(byte);
  return btoa(binary);
}
