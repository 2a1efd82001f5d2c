import { cleanText } from '@fulvet/core';
import { parse } from 'csv-parse/sync';

/** A file of records as rows of text by header. */
export interface RecordTable {
  headers: string[];
  rows: { line: number; values: Record<string, string> }[];
  bad: { line: number; reason: string }[];
}

const MAX_ROWS = 500_000;
const MAX_COLUMNS = 1_000;
const MAX_UNEVEN = 50_000;
/** Values that lines lack, in all: whole tables have few, and each costs as much as one that is there. */
const MAX_LACKING = 1_000_000;

/** Reads CSV (RFC 4180; comma, semicolon or tab, told by the header line; with or without BOM). Never throws. */
export function readCsv(text: string): RecordTable {
  const plain = cleanText(text.replace(/^\ufeff/, ''));
  const headerLine = plain.split(/\r?\n/, 1)[0] ?? '';
  const delimiter =
    [',', ';', '\t'].map((mark) => ({ mark, count: headerLine.split(mark).length })).sort((first, second) => second.count - first.count)[0]
      ?.mark ?? ',';
  const columns = headerLine.split(delimiter).length;
  if (columns > MAX_COLUMNS)
    return {
      headers: [],
      rows: [],
      bad: [
        {
          line: 1,
          reason: `The first line names ${columns} columns; at most ${MAX_COLUMNS} are read. Leave out the columns that are not needed.`,
        },
      ],
    };
  const bad: RecordTable['bad'] = [];
  let records: CsvLine[];
  try {
    records = plain.includes('"') ? quotedLines(plain, delimiter) : plainLines(plain, delimiter);
  } catch (error) {
    const line = error instanceof Error && 'lines' in error ? Number(error.lines) : 1;
    return {
      headers: [],
      rows: [],
      bad: [{ line, reason: `The file cannot be read as CSV: ${error instanceof Error ? error.message : String(error)}` }],
    };
  }
  const headers = (records[0]?.record ?? []).map((value) => value.trim());
  if (headers.length === 0)
    return { headers, rows: [], bad: [{ line: 1, reason: 'The file is empty. Its first line must name the columns.' }] };
  const lacking = records.slice(1).reduce((sum, { record }) => sum + Math.max(0, headers.length - record.length), 0);
  if (lacking > MAX_LACKING)
    return {
      headers,
      rows: [],
      bad: [
        {
          line: 1,
          reason: `Most lines have fewer values than the first line has columns (${headers.length}). Is it the line of the headers?`,
        },
      ],
    };
  const rows: RecordTable['rows'] = [];
  for (const { record, line } of records.slice(1)) {
    if (record.length > headers.length && record.slice(headers.length).some((cell) => cell !== '')) {
      bad.push({
        line,
        reason: `The line has ${record.length} values, but there are ${headers.length} columns. Is a value with a comma missing its quotes?`,
      });
      continue;
    }
    rows.push({ line, values: valuesOf(headers, record) });
  }
  return { headers, rows, bad };
}

/** The values of a line, and at which line of the file it ends. */
export interface CsvLine {
  record: string[];
  line: number;
}

/** The lines of a table in which nothing is quoted; empty ones are left out. */
export function plainLines(text: string, delimiter: string): CsvLine[] {
  const found: CsvLine[] = [];
  const lines = text.split(/\r\n|\n|\r/);
  for (let at = 0; at < lines.length && found.length <= MAX_ROWS; at += 1) {
    const line = lines[at] ?? '';
    if (line.trim() !== '') found.push({ record: line.split(delimiter).map((cell) => cell.trim()), line: at + 1 });
  }
  return found;
}

/** The lines of any table, by the library. @throws where quotes are not closed, and where very many lines are uneven: each costs much */
export function quotedLines(text: string, delimiter: string): CsvLine[] {
  const found = withoutStacks(() =>
    parse(text, {
      delimiter,
      relax_column_count: true,
      relax_quotes: true,
      skip_empty_lines: true,
      trim: true,
      info: true,
      max_record_size: 1_000_000,
      to: MAX_ROWS + 1,
      on_record: (line: string[], { invalid_field_length: uneven }) => {
        if (uneven > MAX_UNEVEN)
          throw new Error(`over ${MAX_UNEVEN.toLocaleString('en')} lines have more or fewer values than the first line has columns`);
        return line;
      },
    }),
  ) as unknown as { record: string[]; info: { lines: number } }[];
  return found.map(({ record, info }) => ({ record, line: info.lines }));
}

/** For each line that has more or fewer values than the first the library makes an error that no one sees; the traces are most of what that costs. */
function withoutStacks<T>(work: () => T): T {
  const limit = Error.stackTraceLimit;
  Error.stackTraceLimit = 0;
  try {
    return work();
  } finally {
    Error.stackTraceLimit = limit;
  }
}

/** Headers are anyone's words: none of them may name what every object has. */
function valuesOf(headers: readonly string[], record: readonly string[]): Record<string, string> {
  const values = Object.create(null) as Record<string, string>;
  headers.forEach((header, at) => {
    values[header] = withoutGuard(record[at] ?? '');
  });
  return values;
}

/** Undoes the apostrophe that an export puts before a cell that a spreadsheet would take for a formula. */
function withoutGuard(cell: string): string {
  return /^'[=+\-@\t\r]/.test(cell) ? cell.slice(1) : cell;
}
