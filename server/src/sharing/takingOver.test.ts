import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Answer, Crew, TestServer } from '../testing/testServer';
import { importMail, importRecords, mbox, owner, PASSWORD, setUpCrew, startTestServer } from '../testing/testServer';

let server: TestServer;
let crew: Crew;
const ids: Record<string, number> = {};

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await importRecords(
    server,
    crew.tokens.admin,
    'account',
    'name,domains,owner\nHarbour Oriel,harbour.example,other@quillmere.example\nReef,reef.example,\nBare,bare.example,\n',
  );
  await importRecords(
    server,
    crew.tokens.admin,
    'contact',
    'name,emails,account,owner\nIda Brandt,ida@harbour.example,Harbour Oriel,other@quillmere.example\n',
  );
  await importRecords(
    server,
    crew.tokens.admin,
    'deal',
    'code,name,account,owner\nQH-1,Outer pier,Harbour Oriel,other@quillmere.example\n',
  );
  await importMail(server, crew.tokens.other, 'other@quillmere.example', {
    'a.mbox': mbox([
      { id: 'a', from: 'Ida <ida@harbour.example>', to: 'other@quillmere.example', subject: 'QH-1 price' },
      { id: 'b', from: 'Kim <kim@reef.example>', to: 'other@quillmere.example' },
    ]),
  });
  await owner(
    server.ownerUrl,
    `INSERT INTO filings (email_id, kind, record_id, rule, created) SELECT e.id, 'account', a.id, 'by hand', false FROM emails e, accounts a WHERE e.message_id = 'b' AND a.name = 'Reef' ON CONFLICT DO NOTHING`,
  );
  for (const kind of ['account', 'contact', 'deal'])
    for (const row of await owner(server.ownerUrl, `SELECT id::int, name FROM ${kind}s`)) ids[String(row.name)] = Number(row.id);
});
afterAll(() => server.remove());

const as = (who: keyof Crew['tokens'], target: Destination, body?: unknown): Promise<Answer> =>
  server.call(target, { token: crew.tokens[who], body });
const ownerOf = async (kind: string, id: number | undefined): Promise<unknown> =>
  (await owner(server.ownerUrl, `SELECT owner_id::int FROM ${kind}s WHERE id = $1`, [id]))[0]?.owner_id;

describe('a record of someone else', () => {
  test.each([
    ['account', 'Harbour Oriel'],
    ['contact', 'Ida Brandt'],
    ['deal', 'Outer pier'],
  ])('is not taken over by a rep or for an administrator: the %s', async (kind, name) => {
    const id = ids[name];
    for (const who of ['rep', 'admin'] as const) {
      const ways = [
        await as(who, routeTo('handOver', { kind }), { ids: [id], to: crew.ids[who] }),
        await as(who, routeTo('editRecord', { kind, id }), { values: { owner: `${who}@quillmere.example` } }),
      ];
      for (const answer of ways) expect({ who, status: answer.status }).toEqual({ who, status: 403 });
    }
    expect(await ownerOf(kind, id)).toBe(crew.ids.other);
  });

  test('is not taken over by a file, either', async () => {
    const answer = await importRecords(
      server,
      crew.tokens.rep,
      'account',
      'name,domains,owner\nHarbour Oriel,harbour.example,rep@quillmere.example\n',
    );
    expect(answer.json.error).toMatchObject({ code: 'not-yours', message: expect.stringContaining('by its owner or by a manager') });
  });

  test('without an owner is free while no mail is filed under it', async () => {
    expect((await as('rep', routeTo('handOver', { kind: 'account' }), { ids: [ids.Reef], to: crew.ids.rep })).status).toBe(403);
    expect((await as('rep', routeTo('handOver', { kind: 'account' }), { ids: [ids.Bare], to: crew.ids.rep })).status).toBe(200);
  });

  test('is given by its owner, who may take it back, and by a manager', async () => {
    const give = (who: keyof Crew['tokens'], to: number) =>
      as(who, routeTo('handOver', { kind: 'account' }), { ids: [ids['Harbour Oriel']], to });
    expect((await give('other', crew.ids.rep)).status).toBe(200);
    expect((await give('other', crew.ids.other)).status).toBe(200);
    expect((await give('manager', crew.ids.manager)).status).toBe(200);
    expect((await give('other', crew.ids.other)).status).toBe(403);
    expect((await give('admin', crew.ids.other)).status).toBe(200);
  });
});

test('a deal’s team is said by its owner or a manager; an administrator does not put themselves on it', async () => {
  const put = (who: keyof Crew['tokens'], members: number[]) => as(who, routeTo('setDealTeam', { id: ids['Outer pier'] }), { members });
  expect((await put('rep', [crew.ids.rep])).json.error.code).toBe('not-yours');
  expect((await put('admin', [crew.ids.admin])).status).toBe(403);
  expect((await put('admin', [crew.ids.rep])).status).toBe(200);
  expect((await put('other', [])).status).toBe(200);
  expect((await put('manager', [crew.ids.manager])).status).toBe(200);
  const { entries } = (await as('other', routeTo('listAudit', { kind: 'share' }))).json;
  expect(entries[0]).toMatchObject({ actor: 'manager person', about: 'the team of the deal Outer pier is manager person' });
});

describe('a mailbox of someone else', () => {
  test('is not opened by an administrator, and what its owner is told of', async () => {
    const [box] = await owner(server.ownerUrl, `SELECT id::int FROM mailboxes WHERE address = 'other@quillmere.example'`);
    const put = (who: keyof Crew['tokens'], body: object) => as(who, routeTo('putMailboxSettings', { id: box?.id }), body);
    expect((await put('other', { share: 'owner', takeIn: 'known' })).status).toBe(200);
    for (const body of [{ share: 'rules' }, { takeIn: 'rules' }, { userIds: [crew.ids.manager] }])
      expect((await put('admin', body)).json.error.code).toBe('owners-choice');
    expect((await put('admin', { takeIn: 'byHand' })).status).toBe(200);
    expect((await as('other', routeTo('listAudit', { kind: 'mailbox' }))).json.entries[0]).toMatchObject({
      actor: 'Ada Admin',
      about: expect.stringContaining('mail comes in by hand only'),
    });
    expect((await put('other', { share: 'rules', takeIn: 'rules' })).status).toBe(200);
  });
});

describe('the second person of an emergency reading', () => {
  const ask = async (): Promise<number> =>
    (await as('admin', routeTo('askEmergency'), { ownerId: crew.ids.other, reason: 'a customer waits for an answer', hours: 1 })).json.id;
  const confirm = async (who: keyof Crew['tokens']): Promise<string> => {
    const answer = await as(who, routeTo('confirmEmergency', { id: await ask() }));
    return answer.status === 200 ? 'ok' : answer.json.error.code;
  };

  test.each([
    ['was created by the first', `UPDATE account_powers SET at = now() WHERE user_id = $1`],
    ['was invited by the first', `INSERT INTO account_powers (user_id, by_id) SELECT $1, id FROM users WHERE role = 'admin'`],
  ])('is not one who %s', async (_, statement) => {
    expect(await confirm('manager')).toBe('ok');
    await owner(server.ownerUrl, statement, [crew.ids.manager]);
    expect(await confirm('manager')).toBe('not-independent');
    await owner(server.ownerUrl, `UPDATE account_powers SET at = at - interval '31 days'`);
    expect(await confirm('manager')).toBe('ok');
  });

  test('is not one whose role or password the first changed', async () => {
    await as('admin', routeTo('setPassword', { id: crew.ids.viewer }), { password: PASSWORD });
    await as('admin', routeTo('changeMember', { id: crew.ids.rep }), { role: 'manager' });
    const powers = await owner(
      server.ownerUrl,
      `SELECT DISTINCT user_id::int FROM account_powers WHERE by_id = $1 AND at > now() - interval '1 hour' ORDER BY 1`,
      [crew.ids.admin],
    );
    expect(powers.map((row) => row.user_id)).toEqual(expect.arrayContaining([crew.ids.viewer, crew.ids.rep]));
    expect(await confirm('rep')).toBe('not-independent');
  });
});
