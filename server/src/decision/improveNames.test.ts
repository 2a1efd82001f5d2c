import { routeTo } from '../testing/routeTo';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Crew, TestServer } from '../testing/testServer';
import { changeRulebook, decideAll, importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

let server: TestServer;
let crew: Crew;
const REP = 'rep@quillmere.example';

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await changeRulebook(server, crew.tokens.admin, (rulebook) => {
    Object.assign(rulebook.create, { people: 'contact', after: 'firstEmail', accounts: true });
  });
  const to = ['i.brandt', 'jlund', 'kim', 'ned', 'forged'].map((local) => `${local}@harbour-oriel.example`).join(', ');
  await importMail(server, crew.tokens.admin, REP, {
    'first.mbox': mbox([{ id: 'first', from: REP, to, subject: 'Gauges', date: '2026-02-01' }]),
  });
  await decideAll(server, crew.tokens.admin);
}, 60_000);
afterAll(() => server.remove());

const names = () =>
  owner(
    server.ownerUrl,
    `SELECT a.address, c.name FROM contacts c JOIN person_addresses a ON a.kind = 'contact' AND a.person_id = c.id ORDER BY a.address`,
  );
const nameOf = async (local: string): Promise<string> => {
  const all = await names();
  return String(all.find((row) => String(row.address).startsWith(`${local}@`))?.name);
};

test('a name that was only an address becomes what its owner writes, or signs with', async () => {
  expect(await nameOf('i.brandt')).toBe('I. Brandt');
  expect(await nameOf('jlund')).toBe('jlund@harbour-oriel.example');
  const [ned] = await owner(
    server.ownerUrl,
    `SELECT c.id FROM contacts c JOIN person_addresses a ON a.person_id = c.id WHERE a.address LIKE 'ned@%'`,
  );
  await server.call(routeTo('editRecord', { kind: 'contact', id: ned?.id }), {
    token: crew.tokens.rep,
    body: { values: { name: 'Captain Ash' } },
  });
  await importMail(server, crew.tokens.admin, REP, {
    'later.mbox': mbox([
      { id: 'written', from: 'Ida Brandt <i.brandt@harbour-oriel.example>', to: REP, subject: 'Thanks', date: '2026-02-02' },
      {
        id: 'signed',
        from: 'jlund@harbour-oriel.example',
        to: REP,
        subject: 'Dates',
        text: 'Tuesday suits us.\n\n-- \nJo Lund\nSurveyor\n',
        date: '2026-02-03',
      },
      { id: 'by hand', from: 'Ned Ash <ned@harbour-oriel.example>', to: REP, subject: 'Berth', date: '2026-02-04' },
    ]),
  });
  await decideAll(server, crew.tokens.admin);
  expect(await nameOf('i.brandt')).toBe('Ida Brandt');
  expect(await nameOf('jlund')).toBe('Jo Lund');
  expect(await nameOf('ned')).toBe('Captain Ash');
  expect(await nameOf('kim')).toBe('kim@harbour-oriel.example');
});

test('the record says that Fulvet changed the name, and its emails name the person as they are called now', async () => {
  const [ida] = await owner(server.ownerUrl, `SELECT id FROM contacts WHERE name = 'Ida Brandt'`);
  const changes = await server.call(routeTo('recordChanges', { kind: 'contact', id: ida?.id }), { token: crew.tokens.rep });
  expect(changes.json).toMatchObject({ changes: [{ by: null, field: 'name', before: 'I. Brandt', after: 'Ida Brandt' }] });
  const dockets = await owner(server.ownerUrl, `SELECT d.docket::text AS docket FROM dockets d JOIN emails e ON e.id = d.email_id`);
  expect(dockets.some((row) => String(row.docket).includes('Ida Brandt'))).toBe(true);
  expect(dockets.some((row) => String(row.docket).includes('I. Brandt'))).toBe(false);
});

test('deciding again says the same', async () => {
  const dockets = () => owner(server.ownerUrl, 'SELECT email_id, docket FROM dockets ORDER BY email_id');
  const before = { names: await names(), dockets: await dockets() };
  await owner(server.ownerUrl, 'UPDATE emails SET decided_at = NULL');
  await decideAll(server, crew.tokens.admin);
  expect({ names: await names(), dockets: await dockets() }).toEqual(before);
});
