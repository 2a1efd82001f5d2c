import { afterAll, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { zipOf } from '../../testing/zipOf';
import { readMailFile } from './mailFiles';

let folder = '';
afterAll(() => rm(folder, { recursive: true, force: true }));

const MAIL = 'From x@y.example Mon May  4 10:00:00 2026\nMessage-ID: <a@x>\n\nhello\n';

test('an archive with any bytes changed is read to an end, with what is wrong as a problem', async () => {
  folder = await mkdtemp(join(tmpdir(), 'fulvet-archive-'));
  const path = join(folder, 'file');
  const archives = [zipOf({ 'a.mbox': MAIL, 'b/c.eml': 'Subject: x\n\nx' }), gzipSync(MAIL)];
  const changes = fc.array(fc.tuple(fc.nat(), fc.nat(255)), { minLength: 1, maxLength: 9 });
  let ended = 0;
  await fc.assert(
    fc.asyncProperty(fc.constantFrom(...archives), changes, async (archive, bytes) => {
      const copy = Buffer.from(archive);
      for (const [at, value] of bytes) copy[at % copy.length] = value;
      await writeFile(path, copy);
      for await (const found of readMailFile(path, 'a', { maxUnfoldedBytes: 50_000_000 }))
        expect('message' in found ? found.message.raw.length : found.problem.reason.length).toBeGreaterThan(0);
      ended += 1;
    }),
    { numRuns: 600, timeout: 5_000 },
  );
  expect(ended).toBe(600);
});
