import { routes } from '@fulvet/contract';
import type { RouteShape } from '@fulvet/contract';
import { cleanText, meetingsOf, readEmail, readEmailBody } from '@fulvet/core';
import { readMailFile } from '@fulvet/server';
import fc from 'fast-check';
import { writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { readCsv } from '../../server/src/base/files/readCsv';
import { replaceBlobs } from '../../server/src/base/reading/quickBlob';
import { zipOf } from '../../server/src/testing/zipOf';
import { htmlForFrame } from '../../server/src/emails/htmlForFrame';
import { readVcards } from '../../server/src/records/import/readVcards';

/** Seconds for each reader; `FUZZ_SECONDS=520` for an hour in all. */
const SECONDS = Number(process.env.FUZZ_SECONDS ?? 20);
const MOST_MS = 2_000;
const MOST_GROWTH = 200 * 1024 * 1024;

/** Pieces of which hostile input is made: each reader's own words, out of order, many times, cut off. */
const PIECES = {
  mail: [
    'From: a@x.example\n',
    'To: ',
    'undisclosed:;',
    '"',
    '<',
    '>',
    ',',
    '(',
    ')',
    '=?utf-8?b?',
    '?=',
    '\n',
    '\r\n',
    ' ',
    '\t',
    ':',
    ';',
    'Content-Type: multipart/mixed; boundary=b\n',
    '--b\n',
    '--b--',
    'Content-Type: text/html\n',
    'Content-Type: message/rfc822\n',
    'Content-Transfer-Encoding: base64\n',
    'References: ',
    '<a@b>',
    'Message-ID: ',
    'Date: Mon, 4 May 2026 10:00:00 +0000\n',
    'Bcc: ',
    '\u0000',
    'é',
    '🌊',
    'Subject: Re: AW: [x] ',
  ],
  calendar: [
    'BEGIN:VCALENDAR\n',
    'END:VCALENDAR\n',
    'BEGIN:VEVENT\n',
    'END:VEVENT\n',
    'BEGIN:VTIMEZONE\n',
    'END:VTIMEZONE\n',
    'BEGIN:STANDARD\n',
    'END:STANDARD\n',
    'UID:1\n',
    'DTSTART:20260101T090000Z\n',
    'DTSTART;TZID=X:20260101T090000\n',
    'TZID:X\n',
    'TZOFFSETTO:+0100\n',
    'RRULE:FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30\n',
    'RRULE:FREQ=SECONDLY\n',
    'RRULE:FREQ=DAILY;COUNT=999999999\n',
    'RDATE:',
    'EXDATE:',
    ',20260101T090000Z',
    '\n',
    ' ',
    ';',
    ':',
    '"',
    'DURATION:P99999999D\n',
  ],
  vcard: [
    'BEGIN:VCARD\n',
    'END:VCARD\n',
    'VERSION:4.0\n',
    'VERSION:3.0\n',
    'FN:Ida\n',
    'N:;;;;\n',
    'EMAIL:',
    'a@x.example\n',
    'item1.',
    ';',
    ':',
    '\n',
    ' ',
    '"',
    '\\',
    ',',
    'TEL;TYPE=work:',
    'BEGIN:',
  ],
  csv: ['name,emails\n', '__proto__,constructor\n', '"', '""', ',', ';', '\t', '\n', '\r', 'Ida', '=cmd', '\ufeff', '\u0000', '\u2028'],
  html: [
    '<b>',
    '</b>',
    '<table>',
    '<a href="',
    '">',
    '<img src="cid:x">',
    '<img src=data:image/png;base64,',
    '<script>',
    '<!--',
    '-->',
    '<style>',
    '&#x',
    '&amp',
    ';',
    '<',
    '>',
    '"',
    "'",
    ' style="color:',
    'url(',
    '\u0000',
  ],
  archive: [
    'From x@y.example Mon May  4 10:00:00 2026\n',
    'Message-ID: <a@x>\n',
    '>From ',
    '\n',
    '\r',
    'PK\u0003\u0004',
    'PK\u0001\u0002',
    'PK\u0005\u0006',
    '\u001f\u008b\u0008',
    '\u0000',
    'a',
  ],
  api: [
    '{',
    '}',
    '[',
    ']',
    '"',
    ':',
    ',',
    '"when":',
    '"all":[',
    '"fact":"participant"',
    '"__proto__":',
    '"rules":[',
    '"id":',
    '1e999',
    '-1',
    'null',
    'true',
    '"\\u0000"',
    '"x"',
    '\\',
    '{"a":',
    '"2026-11-29"',
  ],
} as const;

const READERS: Record<keyof typeof PIECES, (text: string) => unknown> = {
  mail: async (text) => {
    const raw = new TextEncoder().encode(text);
    const facts = await readEmail(raw, { arrivedAt: 0 });
    if (facts.size !== raw.length) throw new Error('the size is not right');
    await readEmailBody(raw);
  },
  calendar: (text) => meetingsOf([text, text], 0),
  vcard: (text) => readVcards(text),
  csv: (text) => readCsv(text),
  archive: readArchives,
  api: (text) => {
    const given = parsed(text);
    for (const route of Object.values(routes) as RouteShape[]) {
      for (const part of [route.body, route.query, route.params]) if (part !== undefined && part !== 'bytes') part.safeParse(given);
    }
  },
  html: (text) => {
    const page = htmlForFrame(text, [], false);
    if (/<script|<iframe|\son\w+=|javascript:/i.test(page)) throw new Error('something that runs is left');
  },
};

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return { text, document: text, values: { name: text }, emails: [text], [text]: text };
  }
}

/** Mail files as they are and compressed; and both with some bytes changed, as the text says which. */
async function readArchives(text: string): Promise<void> {
  const plain = Buffer.from(text, 'latin1');
  const whole = [plain, zipOf({ 'a.mbox': plain, 'b/c.eml': 'Subject: x\n\nx' }), gzipSync(plain)];
  const changed = whole.slice(1).map((bytes, at) => {
    const copy = Buffer.from(bytes);
    for (const letter of text.slice(at, at + 12)) copy[(letter.charCodeAt(0) * 7919) % copy.length] = letter.charCodeAt(0) & 255;
    return copy;
  });
  const file = join(tmpdir(), `fulvet-fuzz-${process.pid}`);
  for (const bytes of [...whole, ...changed]) {
    await writeFile(file, bytes);
    for await (const found of readMailFile(file, 'a', { maxUnfoldedBytes: 50_000_000 })) {
      if ('message' in found && found.message.raw.length > 50_000_000) throw new Error('a message is longer than what may be unfolded');
    }
  }
}

/** Short strings, long repetitions, and pieces in any order. */
function inputs(pieces: readonly string[]): fc.Arbitrary<string> {
  const piece = fc.constantFrom(...pieces);
  return fc.oneof(
    fc.array(fc.oneof(piece, fc.string({ maxLength: 8 })), { maxLength: 200 }).map((parts) => parts.join('')),
    fc.tuple(piece, piece, fc.integer({ min: 1, max: 30_000 })).map(([first, repeated, times]) => first + repeated.repeat(times)),
    fc.tuple(fc.array(piece, { maxLength: 6 }), fc.integer({ min: 1, max: 5_000 })).map(([unit, times]) => unit.join('').repeat(times)),
    fc.uint8Array({ maxLength: 2_000 }).map((bytes) => String.fromCharCode(...bytes)),
  );
}

interface Found {
  runs: number;
  slowest: number;
  growth: number;
  failed: string[];
}

async function fuzz(name: keyof typeof PIECES): Promise<Found> {
  const found: Found = { runs: 0, slowest: 0, growth: 0, failed: [] };
  const until = performance.now() + SECONDS * 1000;
  const before = process.memoryUsage().heapUsed;
  for (let seed = Date.now() >>> 0; performance.now() < until; seed = (seed + 1) >>> 0) {
    const [text = ''] = fc.sample(inputs(PIECES[name]), { numRuns: 1, seed });
    const began = process.cpuUsage();
    try {
      await READERS[name](text);
    } catch (error) {
      found.failed.push(
        `seed ${seed}: ${error instanceof Error ? error.message : String(error)} ${JSON.stringify(cleanText(text).slice(0, 120))}`,
      );
    }
    // What it costs, whatever else this machine does.
    const { user, system } = process.cpuUsage(began);
    const took = (user + system) / 1000;
    if (took > MOST_MS) found.failed.push(`seed ${seed}: ${took.toFixed(0)} ms ${JSON.stringify(cleanText(text).slice(0, 120))}`);
    found.slowest = Math.max(found.slowest, took);
    found.runs += 1;
    if (found.runs % 200 === 0) found.growth = Math.max(found.growth, process.memoryUsage().heapUsed - before);
  }
  return found;
}

/** Reads made-up hostile input for a while: no crash, no hang over two seconds, no growth over 200 MB. */
async function main(): Promise<void> {
  // As in the threads that read.
  replaceBlobs();
  process.stdout.write(`\nfuzzing, ${SECONDS} s for each reader\n`);
  for (const name of Object.keys(PIECES) as (keyof typeof PIECES)[]) {
    const { runs, slowest, growth, failed } = await fuzz(name);
    const held = failed.length === 0 && growth < MOST_GROWTH;
    process.stdout.write(
      `  ${held ? 'held  ' : 'BROKEN'}  ${name.padEnd(10)} ${runs} inputs, the slowest ${slowest.toFixed(0)} ms, grew by ${(growth / 1e6).toFixed(0)} MB\n`,
    );
    for (const line of failed.slice(0, 3)) process.stdout.write(`            ${line}\n`);
    if (!held) process.exitCode = 1;
  }
}

await main();
