import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Change } from '../base/live/changes';
import { announce } from '../base/live/changes';
import { until } from '../testing/mailboxTools';
import type { Answer, Crew, TestServer } from '../testing/testServer';
import { importMail, importRecords, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

type Who = keyof Crew['tokens'];
const MARK = 987_654_321;
let server: TestServer;
let crew: Crew;

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await importRecords(server, crew.tokens.admin, 'account', 'name,domains\nHarbour Oriel,harbour.example\n');
  await importMail(server, crew.tokens.admin, 'rep@quillmere.example', {
    'rep.mbox': mbox([
      { id: 'one', from: 'ida@harbour.example', to: 'rep@quillmere.example', subject: 'Gauges', text: 'When do they come?' },
    ]),
  });
}, 60_000);
afterAll(() => server.remove());

async function as(who: Who, target: Destination, body?: unknown): Promise<Answer['json']> {
  const answer = await server.call(target, { token: crew.tokens[who], body });
  expect([answer.status, answer.text.slice(0, 300)]).toEqual([200, expect.anything()]);
  return answer.json;
}

test('mail that is unsealed after its mailbox went to someone else is told of to no one whom only its former owner’s word let see it', async () => {
  const [{ email, mailbox } = {}] = await owner(
    server.ownerUrl,
    'SELECT e.id::int AS email, s.mailbox_id::int AS mailbox FROM emails e JOIN sightings s ON s.email_id = e.id',
  );
  await as('rep', routeTo('addSharingChoice'), { does: 'share', scope: 'email', emailId: email, level: 'everyone', existenceOnly: false });
  const seal = await as('rep', routeTo('repair'), { emails: [email], reach: 'email', seal: true });
  await as('admin', routeTo('passOnMailbox', { id: mailbox }), { ownerId: crew.ids.manager });

  const heard: Change[] = [];
  const deaf = server.services.changes.hear((change) => heard.push(change));
  // Told in order: when this comes, all that was told of sharing and sealing has come.
  await announce(server.services.database.worker, { kind: 'wake', id: MARK });
  await until(
    () => Promise.resolve(heard),
    (all) => all.some((change) => change.kind === 'wake' && change.id === MARK),
  );
  heard.length = 0;
  await as('rep', routeTo('undoRepair', { id: seal.id }));
  const told = await until(
    () => Promise.resolve(heard.flatMap((change) => (change.kind === 'mail' ? [change.to] : []))),
    (all) => all.flat().includes(crew.ids.manager),
  );
  deaf();

  // Its owners of before lose it, those of now see it, and administrators know of it again.
  expect([...new Set(told.flat())].sort()).toEqual([crew.ids.admin, crew.ids.manager, crew.ids.rep].sort());
  const sees = async (who: Who): Promise<number> => (await as(who, routeTo('listEmails'))).total;
  expect([await sees('manager'), await sees('rep'), await sees('viewer')]).toEqual([1, 0, 0]);
});
