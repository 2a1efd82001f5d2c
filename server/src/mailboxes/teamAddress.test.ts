import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { setTimeout as pause } from 'node:timers/promises';
import type { Answer, Crew, TestServer } from '../testing/testServer';
import { importMail, importRecords, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

let server: TestServer;
let crew: Crew;
const CUSTOMER = 'ida@harbour.example';

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await importRecords(server, crew.tokens.admin, 'account', 'name,domains\nHarbour Oriel,harbour.example\n');
  await importRecords(server, crew.tokens.admin, 'contact', `name,emails,account\nIda Brandt,${CUSTOMER},Harbour Oriel\n`);
  await importMail(server, crew.tokens.other, 'other@quillmere.example', {
    'a.mbox': mbox([{ id: 'a', from: `Ida <${CUSTOMER}>`, to: 'other@quillmere.example' }]),
  });
});
afterAll(() => server.remove());

const as = (who: keyof Crew['tokens'], target: Destination, body?: unknown): Promise<Answer> =>
  server.call(target, { token: crew.tokens[who], body });
const decided = async (id: string): Promise<unknown> =>
  (await owner(server.ownerUrl, `SELECT direction, outcome FROM emails WHERE message_id = $1`, [id]))[0];
const again = (): Promise<unknown> =>
  importMail(server, crew.tokens.other, 'other@quillmere.example', {
    'b.mbox': mbox([{ id: 'b', from: `Ida <${CUSTOMER}>`, to: 'other@quillmere.example', subject: 'more' }]),
  });

describe('a customer’s address that a rep enters for a mailbox', () => {
  test('stays a customer’s', async () => {
    expect((await as('rep', routeTo('createImport'), { mailbox: CUSTOMER })).status).toBe(200);
    const [own] = await owner(server.ownerUrl, `SELECT id::int FROM mailboxes WHERE owner_id = $1`, [crew.ids.rep]);
    expect((await as('rep', routeTo('putMailboxSettings', { id: own?.id }), { aliases: ['jo@harbour.example'] })).status).toBe(200);
    await again();
    expect(await decided('b')).toEqual({ direction: 'received', outcome: 'filed' });
  });

  test('is shown to administrators with what depends on it, and to no one else', async () => {
    expect((await as('rep', routeTo('listTeamAddresses'))).status).toBe(403);
    expect((await as('rep', routeTo('setTeamAddress'), { address: CUSTOMER, isOurs: true })).status).toBe(403);
    expect((await as('admin', routeTo('listTeamAddresses'))).json.addresses).toEqual([
      { address: CUSTOMER, mailbox: CUSTOMER, owner: 'rep person', isOurs: false, emails: 2, records: 1 },
      { address: 'jo@harbour.example', mailbox: CUSTOMER, owner: 'rep person', isOurs: false, emails: 0, records: 0 },
    ]);
  });

  test('is ours once an administrator confirms it, and is not when that is taken back', async () => {
    const say = async (isOurs: boolean, direction: string): Promise<void> => {
      expect((await as('admin', routeTo('setTeamAddress'), { address: CUSTOMER, isOurs })).json.addresses[0].isOurs).toBe(isOurs);
      while (((await decided('a')) as { direction: string }).direction !== direction) await pause(30);
    };
    await say(true, 'internal');
    await say(false, 'received');
    expect((await as('admin', routeTo('setTeamAddress'), { address: 'kim@reef.example', isOurs: true })).status).toBe(404);
  });
});
