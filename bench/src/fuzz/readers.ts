import { routes } from '@fulvet/contract';
import type { RouteShape } from '@fulvet/contract';
import { meetingsOf, readEmail, readEmailBody } from '@fulvet/core';
import { readMailFile } from '@fulvet/server';
import { writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { readCsv } from '../../../server/src/base/files/readCsv';
import { htmlForFrame } from '../../../server/src/emails/htmlForFrame';
import { readVcards } from '../../../server/src/records/import/readVcards';
import { zipOf } from '../../../server/src/testing/zipOf';
import type { Reader } from './pieces';

/** What reads external text, by its name; what it must never leave is checked as well. */
export const READERS: Record<Reader, (text: string) => unknown> = {
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
