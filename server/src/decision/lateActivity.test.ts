import { routeTo } from '../testing/routeTo';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Crew, PlainEmail, TestServer } from '../testing/testServer';
import {
  changeRulebook,
  decideAll,
  decisions,
  importMail,
  importRecords,
  mbox,
  owner,
  setUpCrew,
  startTestServer,
} from '../testing/testServer';

const US = 'rep@quillmere.example';
const OTHER = 'other@quillmere.example';
const day = (n: number): string => `${String(n).padStart(2, '0')} May 2026 10:00:00 +0000`;
const mail = (id: string, more: Partial<PlainEmail>): PlainEmail => ({ id, from: 'Ida Brandt <ida@harbour.example>', to: US, ...more });

let server: TestServer;
let crew: Crew;

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const records = (kind: string, text: string) => importRecords(server, crew.tokens.admin, kind, text);
  await records('account', 'name,domains\nHarbour Oriel,harbour.example\n');
  await records('contact', 'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Oriel\n');
  await records(
    'deal',
    'code,name,account,owner,people,open\nQH-1001,Gauges,Harbour Oriel,rep@quillmere.example,ida@harbour.example,yes\nQH-1002,Buoys,Harbour Oriel,rep@quillmere.example,ida@harbour.example,yes\n',
  );
  await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.share.level = 'everyone'));
}, 60_000);
afterAll(() => server.remove());

async function dealOf(id: string): Promise<string> {
  const item = (await decisions(server, crew.tokens.admin))[id];
  const deal = item.filings.find((filing: { kind: string }) => filing.kind === 'deal') as { name: string } | undefined;
  return deal?.name ?? item.outcome;
}

test('mail that comes in late tells later emails which deal they are about; those before it stay as they are', async () => {
  await importMail(server, crew.tokens.admin, US, {
    'rep.mbox': mbox([
      mail('before', { date: day(2), subject: 'Papers' }),
      mail('after', { date: day(12), subject: 'Papers again' }),
      mail('named', { date: day(13), subject: 'QH-1001 and its cable' }),
    ]),
  });
  expect(await dealOf('before')).toBe('waiting');
  expect(await dealOf('after')).toBe('waiting');

  await importMail(server, crew.tokens.admin, OTHER, {
    'other.mbox': mbox([mail('late', { date: day(11), to: OTHER, subject: 'Order QH-1002' })]),
  });
  expect(await dealOf('late')).toBe('Buoys');
  expect(await dealOf('after')).toBe('Buoys');
  expect(await dealOf('before')).toBe('waiting');
  expect(await dealOf('named')).toBe('Gauges');
  expect(await owner(server.ownerUrl, 'SELECT * FROM late_activity')).toEqual([]);
}, 30_000);

test('decided all anew after that, nothing changes', async () => {
  const before = await decisions(server, crew.tokens.admin);
  await decideAll(server, crew.tokens.admin);
  expect(await decisions(server, crew.tokens.admin)).toEqual(before);
});

test('a deal that is renamed keeps the mail that names it as it was called, and gets what does', async () => {
  const [deal] = await owner(server.ownerUrl, "SELECT id FROM deals WHERE code = 'QH-1001'");
  const values = { name: 'Storm gate', code: 'SG-2002' };
  const edited = await server.call(routeTo('editRecord', { kind: 'deal', id: Number(deal?.id) }), {
    token: crew.tokens.admin,
    body: { values },
  });
  expect(edited.status).toBe(200);
  await importMail(server, crew.tokens.admin, US, {
    'renamed.mbox': mbox([
      mail('old-code', { date: day(14), subject: 'Invoice for QH-1001' }),
      mail('old-name', { date: day(24), subject: 'Gauges: who is on site?' }),
      mail('new-name', { date: day(24), subject: 'Storm gate: who is on site?' }),
    ]),
  });
  await decideAll(server, crew.tokens.admin);
  for (const id of ['named', 'old-code', 'old-name', 'new-name']) expect(await dealOf(id)).toBe('Storm gate');
}, 30_000);

test('where no deal goes by score, nothing is noted', async () => {
  await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.match.deal = 'certain'));
  await importMail(server, crew.tokens.admin, OTHER, {
    'more.mbox': mbox([mail('later-still', { date: day(10), to: OTHER, subject: 'Order SG-2002' })]),
  });
  expect(await dealOf('later-still')).toBe('Storm gate');
  expect(await dealOf('after')).toBe('Buoys');
  expect(await owner(server.ownerUrl, 'SELECT * FROM late_activity')).toEqual([]);
});

test('older mail that comes in late counts for a record that is created after some emails', async () => {
  await changeRulebook(server, crew.tokens.admin, (rulebook) =>
    Object.assign(rulebook.create, { people: 'contact', after: 'emails', emails: 3, accounts: false }),
  );
  const una = { from: 'Una Hartwig <una@quay-works.example>' };
  await importMail(server, crew.tokens.admin, US, {
    'una.mbox': mbox([mail('una-3', { ...una, date: day(20) }), mail('una-4', { ...una, date: day(21) })]),
  });
  const people = async (id: string): Promise<string[]> =>
    (await decisions(server, crew.tokens.admin))[id].filings.map((filing: { name: string }) => filing.name);
  expect(await people('una-4')).toEqual([]);
  await importMail(server, crew.tokens.admin, OTHER, {
    'older.mbox': mbox([mail('una-1', { ...una, to: OTHER, date: day(5) }), mail('una-2', { ...una, to: OTHER, date: day(6) })]),
  });
  for (const id of ['una-1', 'una-2', 'una-3', 'una-4']) expect(await people(id)).toEqual(['Una Hartwig']);
  expect((await owner(server.ownerUrl, "SELECT count(*)::int AS n FROM contacts WHERE name = 'Una Hartwig'"))[0]?.n).toBe(1);
}, 30_000);
