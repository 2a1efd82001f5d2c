import { routeTo } from '../testing/routeTo';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Crew, PlainEmail, TestServer } from '../testing/testServer';
import { changeRulebook, importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

const REP = 'rep@quillmere.example';
const IDA = 'Ida Brandt <ida@harbour.example>';
const DAY_MS = 86_400_000;
const ago = (days: number): string => new Date(Date.now() - days * DAY_MS).toUTCString();
let server: TestServer;
let crew: Crew;

const asked = (id: string, days: number, more: Partial<PlainEmail> = {}): PlainEmail => ({
  id,
  from: IDA,
  to: REP,
  subject: `Question ${id}`,
  date: ago(days),
  ...more,
});
const answer = (id: string, to: string, days: number, more: Partial<PlainEmail> = {}): PlainEmail => ({
  id,
  from: REP,
  to: 'ida@harbour.example',
  subject: `Re: Question ${to}`,
  references: `<${to}>`,
  date: ago(days),
  ...more,
});

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const admin = { token: crew.tokens.admin };
  await server.call(routeTo('importRecords', { kind: 'contact' }), {
    ...admin,
    body: { text: 'name,emails\nIda Brandt,ida@harbour.example\n' },
  });
  await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.share.level = 'everyone'));
  await importMail(server, crew.tokens.admin, REP, {
    'rep.mbox': mbox([
      asked('answered', 9),
      answer('answer', 'answered', 8),
      asked('away', 7),
      answer('away-note', 'away', 6, { headers: 'Auto-Submitted: auto-replied' }),
      asked('passed-on', 5),
      answer('forward', 'passed-on', 4, { to: 'other@quillmere.example' }),
      asked('plain', 3),
      asked('old', 40),
      asked('very-old', 80),
    ]),
  });
}, 60_000);
afterAll(() => server.remove());

test('an absence note and a forward to a colleague answer no one: the home page, the record and the list agree', async () => {
  const token = { token: crew.tokens.rep };
  const [contact] = await owner(server.ownerUrl, 'SELECT id FROM contacts');
  const subjects = (list: { subject: string }[]): string[] => list.map((item) => item.subject).sort();
  const waiting = ['Question away', 'Question passed-on', 'Question plain'];
  const home = (await server.call(routeTo('getArrival'), token)).json;
  expect(subjects(home.unanswered)).toEqual(waiting);
  const insights = (await server.call(routeTo('getInsights', { kind: 'contact', id: contact?.id }), token)).json;
  expect(subjects(insights.unanswered)).toEqual(['Question away', 'Question old', ...waiting.slice(1)]);
  expect(insights.figures.unanswered).toBe(4);
  const list = (await server.call(routeTo('listRecords', { kind: 'contact', unanswered: 'yes' }), token)).json;
  expect(list.records.map((record: { unanswered: number }) => record.unanswered)).toEqual([4]);
});

test('what comes to another address of the same mailbox is asked of its owner, too', async () => {
  const token = { token: crew.tokens.rep };
  await importMail(server, crew.tokens.admin, REP, { 'more.mbox': mbox([asked('to-alias', 2, { to: 'sales@quillmere.example' })]) });
  const has = async (): Promise<boolean> =>
    (await server.call(routeTo('getArrival'), token)).json.unanswered.some(
      (item: { subject: string }) => item.subject === 'Question to-alias',
    );
  expect(await has()).toBe(false);
  await owner(server.ownerUrl, `UPDATE mailboxes SET aliases = '{sales@quillmere.example}' WHERE address = '${REP}'`);
  expect(await has()).toBe(true);
});
