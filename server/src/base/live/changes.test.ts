import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Crew, TestServer } from '../../testing/testServer';
import { owner, setUpCrew, startTestServer } from '../../testing/testServer';

let server: TestServer;
let crew: Crew;
beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
});
afterAll(() => server.remove());

test('when changes could not be heard for a while, pages connect again and so ask for what they show', async () => {
  const stream = await fetch(`${server.url}/api/v1/changes`, { headers: { authorization: `Bearer ${crew.tokens.rep}` } });
  const reader = stream.body!.getReader();
  await reader.read();
  const ended = await owner(
    server.ownerUrl,
    `SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database() AND query LIKE 'LISTEN%'`,
  );
  expect(ended).toHaveLength(1);
  for (;;) if ((await reader.read()).done) break;
  // The next stream hears again.
  const next = await fetch(`${server.url}/api/v1/changes`, { headers: { authorization: `Bearer ${crew.tokens.rep}` } });
  const told = next.body!.getReader();
  await told.read();
  await owner(server.ownerUrl, `SELECT pg_notify('fulvet_changes', '{"kind":"progress","of":"import","to":[${crew.ids.rep}]}')`);
  expect(new TextDecoder().decode((await told.read()).value)).toContain('"of":"import"');
  await told.cancel();
});
