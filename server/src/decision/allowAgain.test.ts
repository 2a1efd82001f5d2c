import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Crew, TestServer } from '../testing/testServer';
import { decideAll, importMail, importRecords, mbox, setUpCrew, startTestServer } from '../testing/testServer';

const REP = 'rep@quillmere.example';
let server: TestServer;
let crew: Crew;
const admin = (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens.admin, body });

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
  const { document } = (await admin(routeTo('getRulebook'))).json;
  return (document.keepOut.entries as { id: string; value: string }[]).find((entry) => entry.value === value)?.id ?? '';
};
const keptOut = async (): Promise<number> => (await admin(routeTo('listEmails', { outcome: 'kept out', limit: 1 }))).json.total;
const filedUnderOriel = async (): Promise<number> => (await admin(routeTo('listEmails', { outcome: 'filed', limit: 1 }))).json.total;

test('what allowing a domain again is said to do is what it does', async () => {
  await admin(routeTo('keepOut'), { kind: 'domain', value: 'harbour.example', effect: 'ignore' });
  const [before, filedBefore] = [await keptOut(), await filedUnderOriel()];
  const preview = (await admin(routeTo('previewAllowAgain', { entry: await entryOf('harbour.example') }))).json;
  expect(preview).toEqual({ value: 'harbour.example', concerned: 10, tried: 10, wouldReturn: 9, wouldBeFiled: 10 });
  expect([await keptOut(), await filedUnderOriel()]).toEqual([before, filedBefore]);
  expect((await admin(routeTo('removeKeepOut', { entry: await entryOf('harbour.example') }))).status).toBe(200);
  expect(before - (await keptOut())).toBe(preview.wouldReturn);
  expect((await filedUnderOriel()) - filedBefore).toBe(preview.wouldBeFiled);
});

test('an entry that is gone is not found, and only administrators ask', async () => {
  expect((await admin(routeTo('previewAllowAgain', { entry: 'none' }))).status).toBe(404);
  expect((await server.call(routeTo('previewAllowAgain', { entry: 'none' }), { token: crew.tokens.rep })).status).toBe(403);
});
