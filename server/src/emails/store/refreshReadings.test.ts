import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Crew, TestServer } from '../../testing/testServer';
import { importMail, mbox, owner, setUpCrew, startTestServer } from '../../testing/testServer';
import { refreshReadings } from './refreshReadings';

let server: TestServer;
let crew: Crew;
beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
}, 60_000);
afterAll(() => server.remove());

test('texts that an earlier version stored are read again, once', async () => {
  const text = 'About QH-2041, the tide gauges at the north pier.';
  await importMail(server, crew.tokens.admin, 'rep@quillmere.example', {
    'a.mbox': mbox([{ id: 'a', from: 'ida@harbour.example', to: 'rep@quillmere.example', text }]),
  });
  const readings = () => owner(server.ownerUrl, 'SELECT codes, word_pairs, reading FROM email_contents');
  const stored = await readings();
  expect(stored).toEqual([{ codes: [expect.stringContaining('QH-2041')], word_pairs: expect.stringMatching(/^[\w-]{20,}$/), reading: 1 }]);
  await owner(server.ownerUrl, `UPDATE email_contents SET codes = '{}', word_pairs = '', reading = 0`);
  const { database, log } = server.services;
  expect(await refreshReadings(database, log)).toBe(1);
  expect(await readings()).toEqual(stored);
  expect(await refreshReadings(database, log)).toBe(0);
});
