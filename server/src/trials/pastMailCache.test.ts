import { routeTo } from '../testing/routeTo';
import { cautiousRulebook, compileRulebook } from '@fulvet/core';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Sources } from '../base/reading/sources';
import type { Crew, TestServer } from '../testing/testServer';
import { importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';
import type { PastMail } from './pastMail';
import { PastMailCache } from './pastMailCache';

const US = 'rep@quillmere.example';
const day = (n: number): string => `${String(n).padStart(2, '0')} May 2026 10:00:00 +0000`;
const mail = (n: number, from = `p${n}@harbour.example`) => ({ id: `m${n}`, from, to: US, subject: `Email ${n}`, date: day(n) });
const compiled = compileRulebook(cautiousRulebook(['quillmere.example']), { teamAddresses: [], publicProviders: new Set() });
const subjects = (past: PastMail): string[] => past.emails.map((email) => email.facts.subject);
const numbered = (...numbers: number[]): string[] => numbers.map((n) => `Email ${n}`);

let server: TestServer;
let crew: Crew;
const newCache = (parts?: number[], blobs: Sources = server.services.blobs): PastMailCache =>
  new PastMailCache(server.services.database, blobs, parts);

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await importMail(server, crew.tokens.admin, US, {
    // The last one is kept out: what it says is read from its source.
    'rep.mbox': mbox([mail(1), mail(2), mail(3), mail(4), mail(5), mail(6, 'no-reply@harbour.example')]),
  });
}, 60_000);
afterAll(() => server.remove());

test('whoever cannot wait gets the newest part, then more, then all; each knows how many there are', async () => {
  const cache = newCache([2, 4]);
  const part = await cache.soon(compiled, 0);
  expect([subjects(part), part.total]).toEqual([numbered(5, 6), 6]);
  const all = await cache.whole(compiled);
  expect([subjects(all), all.total]).toEqual([numbered(1, 2, 3, 4, 5, 6), 6]);
  expect(await cache.soon(compiled, 10_000)).toBe(all);
});

test('read in parts or at once, it is the same', async () => {
  const [parts, once] = [await newCache([1, 3, 4]).whole(compiled), await newCache([]).whole(compiled)];
  expect(JSON.stringify(parts.emails)).toBe(JSON.stringify(once.emails));
  expect([...parts.byKey]).toEqual([...once.byKey]);
  expect([...parts.byKey.keys()]).toContain('@p1@harbour.example');
});

test('what came in since is read before the next count; who cannot wait gets what stood', async () => {
  const cache = newCache([2]);
  await cache.whole(compiled);
  await importMail(server, crew.tokens.admin, US, { 'more.mbox': mbox([mail(7)]) });
  expect(subjects(await cache.soon(compiled, 0))).toEqual(numbered(1, 2, 3, 4, 5, 6));
  expect(subjects(await cache.whole(compiled))).toEqual(numbered(1, 2, 3, 4, 5, 6, 7));
});

test('what has been sealed since is counted by no one, however little they wait', async () => {
  const cache = newCache([3]);
  await cache.whole(compiled);
  const [row] = await owner(server.ownerUrl, "SELECT id FROM emails WHERE message_id = 'm7'");
  const sealed = await server.call(routeTo('repair'), { token: crew.tokens.rep, body: { emails: [Number(row?.id)], seal: true } });
  expect(sealed.status).toBe(200);
  const part = await cache.soon(compiled, 0);
  expect([subjects(part), part.total]).toEqual([numbered(4, 5, 6), 6]);
  expect(subjects(await cache.whole(compiled))).toEqual(numbered(1, 2, 3, 4, 5, 6));
});

test('a reading that fails is told to whoever waits for it, and tried again for the next', async () => {
  let broken = true;
  const { blobs } = server.services;
  const halfBroken = new Proxy(blobs, {
    get: (store, name, receiver) => {
      if (broken) throw new Error('the disk is gone');
      const part = Reflect.get(store, name, receiver) as unknown;
      return typeof part === 'function' ? (part.bind(store) as unknown) : part;
    },
  });
  const cache = newCache([], halfBroken);
  await expect(cache.whole(compiled)).rejects.toThrow('the disk is gone');
  await expect(cache.soon(compiled, 0)).rejects.toThrow('the disk is gone');
  broken = false;
  expect(subjects(await cache.whole(compiled))).toEqual(numbered(1, 2, 3, 4, 5, 6));
});
