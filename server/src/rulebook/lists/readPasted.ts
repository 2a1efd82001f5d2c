import { addressKey, domainToAscii } from '@fulvet/core';
import { parse } from 'csv-parse/sync';

/** One entry of an address list as it was read. `local`: the part before the @ of addresses that name a function, as `info`. */
export interface ReadEntry {
  kind: 'domain' | 'address' | 'local';
  value: string;
  exactly: boolean;
  note: string;
  until: string | null;
}

export interface ReadPaste {
  read: ReadEntry[];
  unread: string[];
}

/** What a list holds: domains and addresses, or local parts. */
export type ListHolds = 'domains' | 'locals';

/** Columns that the first line of a CSV may name. */
const COLUMNS = new Set(['kind', 'value', 'exactly', 'note', 'until', 'domain', 'address', 'email']);
const VALUE_COLUMNS = ['value', 'domain', 'address', 'email'];
const MOST_NOTE = 500;

/**
 * Domains and addresses in a text, in whatever form it comes: a CSV whose first line names columns; else one a line with an optional
 * note behind a tab, or several parted by commas and blanks, among them URLs and `Name <address>`.
 */
export function readPasted(text: string, holds: ListHolds = 'domains'): ReadPaste {
  return readTable(text, holds) ?? readLines(text, holds);
}

function readTable(text: string, holds: ListHolds): ReadPaste | null {
  const [first = ''] = text.replace(/^\ufeff/, '').split(/\r?\n/, 1);
  const delimiter = [',', ';', '\t'].find((value) => first.includes(value)) ?? ',';
  const headers = first.split(delimiter).map((part) => part.trim().replace(/^"|"$/g, '').toLowerCase());
  if (!headers.every((header) => COLUMNS.has(header)) || !headers.some((header) => VALUE_COLUMNS.includes(header))) return null;
  const rows = parse(text, {
    bom: true,
    columns: () => headers,
    delimiter,
    relax_column_count: true,
    relax_quotes: true,
    skip_empty_lines: true,
    trim: true,
  });
  const read = new Map<string, ReadEntry>();
  const unread: string[] = [];
  for (const row of rows as Record<string, string>[]) {
    const written = VALUE_COLUMNS.map((valueColumn) => row[valueColumn] ?? '').find((value) => value !== '') ?? '';
    const entry = readEntry(written.replace(/^'/, ''), holds);
    if (!entry) {
      unread.push(written.slice(0, 200) || '(no value)');
      continue;
    }
    const until = row.until ?? '';
    if (until !== '' && !/^\d{4}-\d{2}-\d{2}$/.test(until)) unread.push(`${written} until ${until}`);
    else
      read.set(entry.value, {
        ...entry,
        exactly: /^(?:yes|y|true|1)$/i.test(row.exactly ?? ''),
        note: (row.note ?? '').slice(0, MOST_NOTE),
        until: until || null,
      });
  }
  return { read: [...read.values()], unread };
}

function readLines(text: string, holds: ListHolds): ReadPaste {
  const read = new Map<string, ReadEntry>();
  const unread: string[] = [];
  for (const line of text.split(/\r?\n/)) {
    const [first = '', ...rest] = line.split('\t');
    const note = rest.join(' ').trim().slice(0, MOST_NOTE);
    for (const piece of piecesOf(first)) {
      const entry = readEntry(piece, holds);
      if (entry) read.set(entry.value, { ...entry, exactly: false, note, until: null });
      else unread.push(piece.slice(0, 200));
    }
  }
  return { read: [...read.values()], unread };
}

/** Names that stand before an address in angle brackets belong to it. */
function piecesOf(text: string): string[] {
  const inBrackets = [...text.matchAll(/<([^<>]+)>/g)].map(([, inner = '']) => inner);
  const rest = text.replace(/(?:"[^"]*"\s*|[^,;<>]*)<[^<>]+>/g, ' ');
  return [...inBrackets, ...rest.split(/[\s,;]+/)].map((inBracket) => inBracket.replace(/^["'(]+|["'),.]+$/g, '').trim()).filter(Boolean);
}

function readEntry(piece: string, holds: ListHolds): Pick<ReadEntry, 'kind' | 'value'> | null {
  if (holds === 'locals') {
    const local = piece
      .replace(/^mailto:/i, '')
      .replace(/@.*$/, '')
      .toLowerCase();
    return /^[\p{L}\d][\p{L}\d._-]{0,63}$/u.test(local) ? { kind: 'local', value: local } : null;
  }
  const bare = piece
    .replace(/^mailto:/i, '')
    .replace(/^[a-z][a-z0-9+.-]*:\/\//i, '')
    .replace(/^(?:\*\.|@)/, '');
  if (bare.includes('@')) {
    const address = addressKey(bare.replace(/[?/#].*$/, ''), { tagsTellApart: true })?.key;
    return address ? { kind: 'address', value: address } : null;
  }
  const domain = domainToAscii(bare.replace(/[/?#:].*$/, '').replace(/^www\./i, ''));
  return /^(?:[a-z0-9-]+\.)+[a-z0-9-]{2,}$/.test(domain) ? { kind: 'domain', value: domain } : null;
}
