import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Crew, TestServer } from '../testing/testServer';
import { decideAll, importMail, importRecords, mbox, setUpCrew, startTestServer } from '../testing/testServer';

const REP = 'rep@quillmere.example';
let server: TestServer;
let crew: Crew;
const admin = (method: string, path: string, body?: unknown) => server.call(method, path, { token: crew.tokens.admin, body });

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await importRecords(server, crew.tokens.admin, 'account', 'name,domains\nHarbour Oriel,harbour.example\n');
  await importMail(server, crew.tokens.rep, REP, {
    'all.mbox': mbox([
      ...Array.from({ length: 9 }, (_, at) => ({ id: `h${String(at)}`, from: `ida${String(at)}@harbour.example`, to: REP })),
      { id: 'both', from: 'kim@reef.example', to: `${REP}, ida@harbour.example` },
      { id: 'other', from: 'kim@reef.example', to: REP },
    ]),
  });
  await decideAll(server, crew.tokens.admin);
}, 60_000);
afterAll(() => server.remove());

const entryOf = async (value: string): Promise<string> => {
  const { document } = (await admin('GET', '/rulebook')).json;
  return (document.keepOut.entries as { id: string; value: string }[]).find((entry) => entry.value === value)?.id ?? '';
};
const keptOut = async (): Promise<number> => (await admin('GET', '/emails?outcome=kept%20out&limit=1')).json.total;
const filedUnderOriel = async (): Promise<number> => (await admin('GET', '/emails?outcome=filed&limit=1')).json.total;

test('what allowing a domain again is said to do is what it does', async () => {
  await admin('POST', '/keep-out', { kind: 'domain', value: 'harbour.example', effect: 'ignore' });
  const [before, filedBefore] = [await keptOut(), await filedUnderOriel()];
  const preview = (await admin('GET', `/keep-out/${await entryOf('harbour.example')}/preview`)).json;
  expect(preview).toEqual({ value: 'harbour.example', concerned: 10, tried: 10, wouldReturn: 9, wouldBeFiled: 10 });
  expect([await keptOut(), await filedUnderOriel()]).toEqual([before, filedBefore]);
  expect((await admin('DELETE', `/keep-out/${await entryOf('harbour.example')}`)).status).toBe(200);
  expect(before - (await keptOut())).toBe(preview.wouldReturn);
  expect((await filedUnderOriel()) - filedBefore).toBe(preview.wouldBeFiled);
});

test('an entry that is gone is not found, and only administrators ask', async () => {
  expect((await admin('GET', '/keep-out/none/preview')).status).toBe(404);
  expect((await server.call('GET', '/keep-out/none/preview', { token: crew.tokens.rep })).status).toBe(403);
});
