import type { StoredMessage } from '../mailStore';
import { sent } from './tokens';

const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/** Where the header of a message ends and its body begins. */
function bodyStart(raw: Buffer): number {
  const crlf = raw.indexOf('\r\n\r\n');
  if (crlf >= 0) return crlf + 4;
  const lf = raw.indexOf('\n\n');
  return lf >= 0 ? lf + 2 : raw.length;
}

export const headerOf = (raw: Buffer): Buffer => raw.subarray(0, bodyStart(raw));
export const textPartOf = (raw: Buffer): Buffer => raw.subarray(bodyStart(raw));

/** Header fields with their folded lines, in order. */
export function fieldsOf(raw: Buffer): { name: string; source: string; value: string }[] {
  const lines = headerOf(raw).toString('latin1').split(/\r?\n/);
  const fields: { name: string; source: string; value: string }[] = [];
  for (const line of lines) {
    const last = fields.at(-1);
    if (/^[ \t]/.test(line) && last) {
      last.source += `\r\n${line}`;
      last.value += ` ${line.trim()}`;
      continue;
    }
    const colon = line.indexOf(':');
    if (colon > 0) fields.push({ name: line.slice(0, colon).trim().toLowerCase(), source: line, value: line.slice(colon + 1).trim() });
  }
  return fields;
}

export function fieldOf(raw: Buffer, name: string): string {
  return fieldsOf(raw).find((field) => field.name === name.toLowerCase())?.value ?? '';
}

/** The part of a message that a section names: empty, `HEADER`, `TEXT`, `HEADER.FIELDS (…)`, `HEADER.FIELDS.NOT (…)`. */
export function sectionOf(raw: Buffer, section: string): Buffer | null {
  const upper = section.toUpperCase();
  if (upper === '') return raw;
  if (upper === 'HEADER') return headerOf(raw);
  if (upper === 'TEXT' || upper === '1') return textPartOf(raw);
  const fields = /^HEADER\.FIELDS(\.NOT)? \((.*)\)$/.exec(upper);
  if (!fields) return null;
  const names = new Set((fields[2] ?? '').replace(/"/g, '').split(/\s+/));
  const chosen = fieldsOf(raw).filter((field) => names.has(field.name.toUpperCase()) !== Boolean(fields[1]));
  return Buffer.from(`${chosen.map((item) => `${item.source}\r\n`).join('')}\r\n`, 'latin1');
}

/** `04-May-2026 10:00:00 +0000` */
export function internalDate(date: Date): string {
  const two = (value: number): string => String(value).padStart(2, '0');
  return `${two(date.getUTCDate())}-${MONTHS[date.getUTCMonth()] ?? ''}-${date.getUTCFullYear()} ${two(date.getUTCHours())}:${two(date.getUTCMinutes())}:${two(date.getUTCSeconds())} +0000`;
}

/** Reads `4-May-2026`, with or without a time of day. NaN where it is none. */
export function parseImapDate(text: string): number {
  const found = /^\s*(\d{1,2})-(\w{3})-(\d{4})(?: (\d{2}):(\d{2}):(\d{2}) ([+-])(\d{2})(\d{2}))?$/.exec(text);
  if (!found) return NaN;
  const [, day, month = '', year, hour = '0', minute = '0', second = '0', sign = '+', zoneHours = '0', zoneMinutes = '0'] = found;
  const at = MONTHS.findIndex((value) => value.toLowerCase() === month.toLowerCase());
  const offset = (Number(zoneHours) * 60 + Number(zoneMinutes)) * 60_000 * (sign === '-' ? -1 : 1);
  return at < 0 ? NaN : Date.UTC(Number(year), at, Number(day), Number(hour), Number(minute), Number(second)) - offset;
}

/** The envelope structure (RFC 3501, section 7.4.2). */
export function envelopeOf(message: StoredMessage): string {
  const fields = fieldsOf(message.raw);
  const value = (name: string): string => fields.find((field) => field.name === name)?.value ?? '';
  const text = (name: string): string => (value(name) === '' ? 'NIL' : sent(value(name)));
  const from = addressesOf(value('from'));
  const people = (name: string, fallback = 'NIL'): string => (value(name) === '' ? fallback : addressesOf(value(name)));
  return `(${text('date')} ${text('subject')} ${from} ${people('sender', from)} ${people('reply-to', from)} ${people('to')} ${people('cc')} ${people('bcc')} ${text('in-reply-to')} ${text('message-id')})`;
}

function addressesOf(list: string): string {
  const people = list.split(/,(?=(?:[^"]*"[^"]*")*[^"]*$)/).map((part) => {
    const address = /<([^>]*)>/.exec(part)?.[1] ?? part.trim();
    const name = part.includes('<') ? part.slice(0, part.indexOf('<')).trim().replace(/^"|"$/g, '') : '';
    const [local = '', domain = ''] = address.split('@');
    return `(${name === '' ? 'NIL' : sent(name)} NIL ${sent(local)} ${domain === '' ? 'NIL' : sent(domain)})`;
  });
  return list.trim() === '' ? 'NIL' : `(${people.join('')})`;
}
