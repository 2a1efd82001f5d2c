const LF = 0x0a;
const FROM_LINE = /^>*From /;

/**
 * One message as an mboxrd entry: separator, the source with `From ` lines quoted, an empty line.
 *
 * @param sender address for the separator; anything that is no plain address becomes `MAILER-DAEMON`
 * @param at time for the separator, milliseconds
 */
export function mboxEntry(raw: Uint8Array, sender: string, at: number): Uint8Array {
  const text = latin1(raw).replace(/\r\n/g, '\n');
  const quoted = text
    .split('\n')
    .map((line) => (FROM_LINE.test(line) ? `>${line}` : line))
    .join('\n');
  const plainSender = /^[^\s@]+@[^\s@]+$/.test(sender) ? sender : 'MAILER-DAEMON';
  const ended = quoted.endsWith('\n') ? quoted : `${quoted}\n`;
  return bytesOf(`From ${plainSender} ${asctime(at)}\n${ended}\n`);
}

/** `Tue May  4 10:00:00 2026`, in UTC. */
export function asctime(at: number): string {
  const date = new Date(at);
  const [weekday = '', day = '', month = '', year = ''] = date.toUTCString().replace(',', '').split(' ');
  return `${weekday} ${month} ${day.replace(/^0/, ' ')} ${date.toISOString().slice(11, 19)} ${year}`;
}

/** Each byte as the character of that number. */
export function latin1(bytes: Uint8Array): string {
  let text = '';
  for (let at = 0; at < bytes.length; at += 8192) text += String.fromCharCode(...bytes.subarray(at, at + 8192));
  return text;
}

function bytesOf(text: string): Uint8Array {
  const bytes = new Uint8Array(text.length);
  for (let at = 0; at < text.length; at += 1) bytes[at] = text.charCodeAt(at) & 0xff;
  if (bytes.length > 0 && bytes[bytes.length - 1] !== LF) throw new Error('an mbox entry ends with a line end');
  return bytes;
}
