import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { until } from '../testing/mailboxTools';
import type { Crew, PlainEmail, TestServer } from '../testing/testServer';
import { changeRulebook, decideAll, importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

type Who = keyof Crew['tokens'];
let server: TestServer;
let crew: Crew;
const as = (who: Who) => (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens[who], body });
const REP = 'rep@quillmere.example';
const OTHER = 'other@quillmere.example';
const mail = (id: string, from: string, to: string): PlainEmail => ({ id, from, to, subject: `About ${id}`, text: 'a word about teeth' });

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await as('admin')(routeTo('importRecords', { kind: 'account' }), { text: 'name,domains\nDr Molar,dr-molar.example\n' });
  await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.share.level = 'everyone'));
  await importMail(server, crew.tokens.admin, REP, {
    'rep.mbox': mbox([
      mail('mine', 'Desk <desk@dr-molar.example>', REP),
      mail('ours', 'Desk <desk@dr-molar.example>', `${REP}, ${OTHER}`),
      mail('work', 'ida@harbour.example', REP),
    ]),
  });
  await importMail(server, crew.tokens.admin, OTHER, {
    'other.mbox': mbox([mail('ours', 'Desk <desk@dr-molar.example>', `${REP}, ${OTHER}`)]),
  });
}, 60_000);
afterAll(() => server.remove());

const outcomes = async (): Promise<Record<string, string>> =>
  Object.fromEntries(
    (await owner(server.ownerUrl, 'SELECT message_id, outcome FROM emails')).map((row) => [String(row.message_id), String(row.outcome)]),
  );
const STOOD = { mine: 'filed', ours: 'filed', work: 'unfiled' };

test('a member keeps someone out of their own mail; what a colleague has, too, comes in', async () => {
  expect(await outcomes()).toEqual(STOOD);
  const added = await as('rep')(routeTo('addOwnKeepOut'), { kind: 'domain', value: '@DR-Molar.example' });
  expect(added.json).toMatchObject({ kind: 'domain', value: 'dr-molar.example' });
  await until(outcomes, (now) => now.mine === 'kept out');
  expect(await outcomes()).toEqual({ ...STOOD, mine: 'kept out' });
  expect(
    await owner(server.ownerUrl, `SELECT FROM email_contents c JOIN emails e ON e.id = c.email_id WHERE e.message_id = 'mine'`),
  ).toEqual([]);
  await decideAll(server, crew.tokens.admin);
  expect(await outcomes()).toEqual({ ...STOOD, mine: 'kept out' });
});

test('the entry is theirs alone to see and to take back; taken back, the mail is read again', async () => {
  const [entry] = (await as('rep')(routeTo('listOwnKeepOuts'))).json.keepOuts;
  for (const who of ['other', 'admin'] as const) {
    expect((await as(who)(routeTo('listOwnKeepOuts'))).json.keepOuts).toEqual([]);
    expect((await as(who)(routeTo('removeOwnKeepOut', { id: entry.id }))).status).toBe(404);
  }
  expect((await as('rep')(routeTo('removeOwnKeepOut', { id: entry.id }))).status).toBe(200);
  await until(outcomes, (now) => now.mine === 'filed');
  expect(await outcomes()).toEqual(STOOD);
  expect((await as('rep')(routeTo('search', { text: 'teeth' }))).json.emailTotal).toBe(3);
});

test.each([
  ['address', 'nonsense', 'bad-input'],
  ['domain', 'nonsense', 'bad-input'],
  ['address', 'ada@quillmere.example', 'ours'],
  ['domain', 'quillmere.example', 'ours'],
])('%s %s is refused', async (kind, value, code) => {
  expect((await as('rep')(routeTo('addOwnKeepOut'), { kind, value })).json.error.code).toBe(code);
});
