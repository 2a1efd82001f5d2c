import { cleanText } from '@fulvet/core';
import ICAL from 'ical.js';
import type { RecordTable } from '../../base/files/readCsv';

/** Reads contacts from vCard 3 (RFC 2426) and 4 (RFC 6350). A card that cannot be read is named by its line. */
export function readVcards(text: string): RecordTable {
  const rows: RecordTable['rows'] = [];
  const bad: RecordTable['bad'] = [];
  const lines = cleanText(text.replace(/^\ufeff/, '')).split(/\r\n|\n|\r/);
  let start = -1;
  lines.forEach((line, at) => {
    if (/^begin:vcard\s*$/i.test(line)) start = at;
    if (!/^end:vcard\s*$/i.test(line) || start < 0) return;
    try {
      rows.push({ line: start + 1, values: readCard(lines.slice(start, at + 1).join('\r\n')) });
    } catch (error) {
      bad.push({ line: start + 1, reason: `The card cannot be read: ${error instanceof Error ? error.message : String(error)}` });
    }
    start = -1;
  });
  if (start >= 0) bad.push({ line: start + 1, reason: 'The card has no END:VCARD.' });
  if (rows.length === 0 && bad.length === 0) bad.push({ line: 1, reason: 'The file has no BEGIN:VCARD.' });
  return { headers: ['name', 'emails', 'account', 'title', 'phone'], rows, bad };
}

function readCard(text: string): Record<string, string> {
  const card = new ICAL.Component(ICAL.parse(text) as never);
  const first = (name: string): string => flat(card.getFirstPropertyValue(name));
  const all = (name: string): string[] =>
    card
      .getAllProperties(name)
      .map((property) =>
        flat(property.getFirstValue())
          .replace(/^(?:mailto|tel):/i, '')
          .trim(),
      )
      .filter(Boolean);
  const structured = card.getFirstPropertyValue('n') as unknown;
  const parts = Array.isArray(structured) ? structured.map(flat) : [];
  const name = first('fn') || [parts[1], parts[0]].filter(Boolean).join(' ');
  const organisation = card.getFirstPropertyValue('org') as unknown;
  return {
    name: name.trim(),
    emails: all('email').join(';'),
    account: (Array.isArray(organisation) ? flat(organisation[0]) : flat(organisation)).trim(),
    title: first('title').trim(),
    phone: all('tel').join(';'),
  };
}

function flat(value: unknown): string {
  if (Array.isArray(value)) return value.map(flat).join(' ');
  return typeof value === 'string' || typeof value === 'number' ? String(value) : '';
}
