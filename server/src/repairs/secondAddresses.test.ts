import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Answer, Crew, PlainEmail, TestServer } from '../testing/testServer';
import { changeRulebook, importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';
import { until } from '../testing/mailboxTools';

let server: TestServer;
let crew: Crew;
const rep = (target: Destination, body?: unknown): Promise<Answer> => server.call(target, { token: crew.tokens.rep, body });

const US = 'rep@quillmere.example';
const HOME = 'lea.ost@driftpost.example';
const mail = (id: string, more: Partial<PlainEmail> = {}): PlainEmail => ({ id, from: `Lea Ost <${HOME}>`, to: US, subject: id, ...more });

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const admin = { token: crew.tokens.admin };
  await server.call(routeTo('importRecords', { kind: 'account' }), {
    ...admin,
    body: { text: 'name,domains\nHarbour Oriel,harbour.example\n' },
  });
  await server.call(routeTo('importRecords', { kind: 'contact' }), {
    ...admin,
    body: {
      text: 'name,emails,account\nLea Ost,l.ost@harbour.example,Harbour Oriel\nBo Lund,bo@harbour.example,Harbour Oriel\n',
    },
  });
  await changeRulebook(server, crew.tokens.admin, (rulebook) => {
    rulebook.us.providers.added = ['driftpost.example'];
    Object.assign(rulebook.create, { people: 'contact', after: 'firstEmail' });
  });
  await importMail(server, crew.tokens.admin, US, {
    'rep.mbox': mbox([mail('photos', { date: '04 May 2026 10:00:00 +0000' }), mail('mast', { date: '05 May 2026 10:00:00 +0000' })]),
  });
}, 60_000);
afterAll(() => server.remove());

const standing = (): Promise<{ outcome: string; under: string[] }[]> =>
  owner(
    server.ownerUrl,
    "SELECT e.outcome, ARRAY(SELECT f.kind || ' ' || coalesce(c.name, a.name) FROM filings f LEFT JOIN contacts c ON f.kind = 'contact' AND c.id = f.record_id LEFT JOIN accounts a ON f.kind = 'account' AND a.id = f.record_id WHERE f.email_id = e.id ORDER BY f.kind) AS under FROM emails e ORDER BY e.sent_at",
  ) as Promise<{ outcome: string; under: string[] }[]>;

const idOf = async (table: string, where: string): Promise<number> =>
  Number((await owner(server.ownerUrl, `SELECT id FROM ${table} WHERE ${where} ORDER BY id LIMIT 1`))[0]?.id);

describe('a second address of someone on record', () => {
  const asked = [
    { outcome: 'waiting', under: [] },
    { outcome: 'waiting', under: [] },
  ];

  test('is asked about once for all its emails, and no one is created', async () => {
    expect(await standing()).toEqual(asked);
    const desk = (await rep(routeTo('getDesk'))).json;
    const lea = await idOf('contacts', "name = 'Lea Ost'");
    expect(desk.cases).toMatchObject([
      {
        about: 'person',
        domain: HOME,
        count: 2,
        candidates: [{ id: lea, name: 'Lea Ost', detail: 'Harbour Oriel · l.ost@harbour.example' }],
      },
    ]);
    expect(await owner(server.ownerUrl, 'SELECT FROM contacts')).toHaveLength(2);
  });

  test('is given to them by one answer, which files all of them and is taken back as one step', async () => {
    const [email, lea] = [await idOf('emails', 'true'), await idOf('contacts', "name = 'Lea Ost'")];
    const done = await rep(routeTo('repair'), {
      emails: [email],
      reach: 'conversation',
      secondAddresses: [{ kind: 'contact', id: lea, address: 'lea.ost@driftpost.example' }],
    });
    expect([done.status, done.json.summary]).toEqual([200, `Noted ${HOME} as an address of the contact Lea Ost`]);
    const filed = { outcome: 'filed', under: ['account Harbour Oriel', 'contact Lea Ost'] };
    await until(standing, (now) => now.every((item) => item.outcome === 'filed'));
    expect(await standing()).toEqual([filed, filed]);
    const undone = await rep(routeTo('undoRepair', { id: done.json.id }));
    expect(undone.status).toBe(200);
    expect(await standing()).toEqual(asked);
  });

  test('is refused with a reason where it cannot be theirs', async () => {
    const [email, bo] = [await idOf('emails', 'true'), await idOf('contacts', "name = 'Bo Lund'")];
    const give = (address: string, id = bo) =>
      rep(routeTo('repair'), { emails: [email], secondAddresses: [{ kind: 'contact', id, address }] });
    const refused = async (answer: Promise<Answer>): Promise<unknown[]> => [(await answer).status, (await answer).json.error.message];
    expect(await refused(give('nobody'))).toEqual([422, 'nobody is not an address. Nothing was changed.']);
    expect(await refused(give('rep@quillmere.example'))).toEqual([
      422,
      'rep@quillmere.example is a colleague’s address. Nothing was changed.',
    ]);
    expect(await refused(give('l.ost@harbour.example'))).toEqual([
      409,
      'l.ost@harbour.example belongs to the contact Lea Ost already. Nothing was changed.',
    ]);
    const theirs = await give('bo@harbour.example');
    expect(theirs.json.summary).toBe('Noted bo@harbour.example as an address of the contact Bo Lund');
    await rep(routeTo('undoRepair', { id: theirs.json.id }));
    expect(await owner(server.ownerUrl, "SELECT FROM person_addresses WHERE address = 'bo@harbour.example'")).toHaveLength(1);
    expect((await give(HOME, 9999)).status).toBe(404);
  });

  test('of whom mail has just created is asked about by the record that came of it, and no more once the record has another name', async () => {
    const mo = 'mo.sand@driftpost.example';
    await importMail(server, crew.tokens.admin, US, {
      'mo.mbox': mbox([
        mail('salt', { from: 'Mo Sand <mo@saltworks.example>', date: '06 May 2026 10:00:00 +0000' }),
        mail('sea-salt', { from: `Mo Sand <${mo}>`, date: '07 May 2026 10:00:00 +0000' }),
      ]),
    });
    const id = await idOf('contacts', "name = 'Mo Sand'");
    const casesOfMo = async (): Promise<object[]> =>
      (await rep(routeTo('getDesk'))).json.cases.filter((testCase: { domain: string }) => testCase.domain === mo);
    expect(await casesOfMo()).toMatchObject([{ candidates: [{ id, name: 'Mo Sand', detail: 'Saltworks · mo@saltworks.example' }] }]);
    await rep(routeTo('editRecord', { kind: 'contact', id }), { values: { name: 'Moritz Sandmann' } });
    await until(casesOfMo, (cases) => cases.length === 0);
    // Whoever is unknown under a name that no one has is created, as the rulebook says.
    expect(await idOf('contacts', "name = 'Mo Sand'")).toBeGreaterThan(id);
  });
});
