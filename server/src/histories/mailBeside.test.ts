import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { good } from '../testing/documentTools';
import { routeTo } from '../testing/routeTo';
import type { Crew, TestServer } from '../testing/testServer';
import { changeRulebook, importMail, importRecords, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

const REP = 'rep@quillmere.example';
let server: TestServer;
let crew: Crew;
let ids: Record<string, number>;

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const admin = crew.tokens.admin;
  await importRecords(server, admin, 'account', 'name,domains\nHarbour Works,harbour.example\n');
  await importRecords(
    server,
    admin,
    'contact',
    'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Works\nOla Berg,ola@harbour.example,Harbour Works\n',
  );
  await importRecords(server, admin, 'deal', 'code,name,account,people\nQH-1,Storm gate,Harbour Works,ida@harbour.example\n');
  await changeRulebook(server, admin, (rulebook) => {
    rulebook.share.level = 'everyone';
    rulebook.takeIn.scope = 'byHand';
  });
  const mail = (id: string, hoursAgo: number, more: object = {}) => ({
    id,
    from: 'Ida Brandt <ida@harbour.example>',
    to: REP,
    subject: `About ${id}`,
    date: new Date(Date.now() - hoursAgo * 3_600_000).toUTCString(),
    ...more,
  });
  await importMail(server, admin, REP, {
    'rep.mbox': mbox([
      mail('one', 30),
      mail('two', 20, { cc: 'Ola Berg <ola@harbour.example>' }),
      mail('old', 24 * 400),
      mail('strangers', 10, { from: 'x@marsh.example' }),
      mail('sealed', 5),
    ]),
  });
  const rows = await owner(
    server.ownerUrl,
    `SELECT name, id::int FROM accounts UNION ALL SELECT name, id::int FROM contacts UNION ALL SELECT name, id::int FROM deals UNION ALL SELECT message_id, id::int FROM emails`,
  );
  ids = Object.fromEntries(rows.map((row) => [String(row.name), Number(row.id)]));
  good(await server.call(routeTo('repair'), { token: crew.tokens.rep, body: { emails: [ids.sealed], seal: true } }));
}, 90_000);
afterAll(() => server.remove());

const beside = async (kind: string, name: string, who: keyof Crew['tokens'] = 'rep'): Promise<string[]> =>
  good(await server.call(routeTo('getMailBeside', { kind, id: ids[name] ?? 0 }), { token: crew.tokens[who] })).emails.map(
    ({ content }: { content: { subject: string } }) => content.subject,
  );
const fileUnder = async (email: string, kind: string, name: string): Promise<void> => {
  const body = { emails: [ids[email]], file: [{ kind, id: ids[name] }] };
  good(await server.call(routeTo('repair'), { token: crew.tokens.rep, body }));
};
const proposed = async (): Promise<unknown> =>
  good(await server.call(routeTo('proposeDealPeople', { id: ids['Storm gate'] ?? 0 }), { token: crew.tokens.rep })).people;

test('mail with the people of a record that is not filed there is shown to who has it, until it is filed', async () => {
  for (const [kind, name] of [
    ['contact', 'Ida Brandt'],
    ['account', 'Harbour Works'],
    ['deal', 'Storm gate'],
  ] as const) {
    expect(await beside(kind, name)).toEqual(['About two', 'About one']);
    for (const who of ['manager', 'admin'] as const) expect(await beside(kind, name, who)).toEqual([]);
  }
  expect(await beside('contact', 'Ola Berg')).toEqual(['About two']);
  await fileUnder('two', 'deal', 'Storm gate');
  expect(await beside('deal', 'Storm gate')).toEqual(['About one']);
  // Under a deal of it, it is in the history of the account.
  expect(await beside('account', 'Harbour Works')).toEqual(['About one']);
  // Filed by hand, it is taken in, and is in the history of the people in it, too.
  expect(await beside('contact', 'Ola Berg')).toEqual([]);
  expect(
    (await server.call(routeTo('getMailBeside', { kind: 'deal', id: ids['Storm gate'] ?? 0 }), { token: crew.tokens.viewer })).status,
  ).toBe(403);
});

test('people of a deal’s mail who are not on it are proposed for it', async () => {
  expect(await proposed()).toEqual([{ kind: 'contact', id: ids['Ola Berg'], name: 'Ola Berg', emails: 1 }]);
  const people = ['Ida Brandt', 'Ola Berg'].map((name) => ({ kind: 'contact', id: ids[name], role: '' }));
  good(await server.call(routeTo('setDealPeople', { id: ids['Storm gate'] ?? 0 }), { token: crew.tokens.rep, body: { people } }));
  expect(await proposed()).toEqual([]);
});
