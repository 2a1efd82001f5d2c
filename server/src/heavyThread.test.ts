import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { pino } from 'pino';
import { BARE } from './testing/testServer';
import type { Crew, TestServer } from './testing/testServer';
import { owner, setUpCrew, startTestServer } from './testing/testServer';
import { routeTo } from './testing/routeTo';
import { HeavyThread } from './heavyThread';
import { isRefusal } from './base/refusal';

let server: TestServer;
let crew: Crew;
const RECORDS = 6_000;

beforeAll(async () => {
  server = await startTestServer({ worksApart: true });
  crew = await setUpCrew(server);
  await owner(server.ownerUrl, `INSERT INTO contacts (name) SELECT 'Ida ' || md5((n / 2)::text) FROM generate_series(1, ${RECORDS}) n`);
  await owner(
    server.ownerUrl,
    `INSERT INTO person_addresses (kind, person_id, address) SELECT 'contact', id, 'ida' || id || '@' || substr(name, 5, 8) || '.example' FROM contacts`,
  );
}, 120_000);
afterAll(() => server.remove());

const duplicates = { user: { id: 0, role: 'admin' }, params: { kind: 'contact' }, query: { limit: 5 }, body: undefined };

test('what compares all records is answered beside what others ask', async () => {
  expect(server.heavyThread?.threadId).toBeNull();
  const answer = await server.call(routeTo('listDuplicates', { kind: 'contact', limit: 5 }), { token: crew.tokens.admin });
  expect(answer.status).toBe(200);
  expect(answer.json).toMatchObject({ compared: RECORDS, pairs: Array.from({ length: 5 }, () => expect.anything()) });
  expect(server.heavyThread?.threadId).toBeGreaterThan(0);
});

test('a refusal, and an answer that the caller may not have, are the same as without the thread', async () => {
  const viewer = await server.call(routeTo('listDuplicates', { kind: 'contact' }), { token: crew.tokens.viewer });
  expect(viewer.status).toBe(403);
  const suggested = await server.call(routeTo('listSuggestions'), { token: crew.tokens.admin });
  expect([suggested.status, suggested.json.suggestions]).toEqual([200, []]);
});

test('what takes too long is stopped and says so; the next request is answered by a new thread', async () => {
  const heavy = new HeavyThread({ ...BARE, ownerUrl: server.ownerUrl, dataFolder: server.dataFolder }, pino({ level: 'silent' }), {
    deadline: 1,
  });
  const [user] = await owner(server.ownerUrl, `SELECT id::int, name, email, role FROM users WHERE role = 'admin'`);
  const call = { ...duplicates, user: user as never };
  const given = await heavy.answer('listDuplicates', call);
  expect(isRefusal(given) && given.message).toMatch(/took too long, so it was stopped/);
  const patient = new HeavyThread({ ...BARE, ownerUrl: server.ownerUrl, dataFolder: server.dataFolder }, pino({ level: 'silent' }));
  expect(await patient.answer('listDuplicates', call)).toMatchObject({ compared: RECORDS });
  await expect(patient.answer('listDuplicates', { ...call, params: { kind: 'no such kind' } })).rejects.toThrow(/Failed query|relation/);
  const left = patient.answer('listDuplicates', call);
  await patient.stop();
  expect(await left).toMatchObject({ code: 'too-much', message: expect.stringContaining('stopping') });
  expect(await patient.answer('listDuplicates', call)).toMatchObject({ compared: RECORDS });
  await Promise.all([heavy.stop(), patient.stop()]);
});
