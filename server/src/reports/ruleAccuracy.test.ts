import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Crew, TestServer } from '../testing/testServer';
import { decideAll, importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

const REP = 'rep@quillmere.example';
let server: TestServer;
let crew: Crew;
const admin = (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens.admin, body });
const rep = (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens.rep, body });
const daysAgo = (days: number): string => new Date(Date.now() - days * 86_400_000).toUTCString();

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await admin(routeTo('importRecords', { kind: 'account' }), {
    text: 'name,domains\nHarbour Oriel,harbour-oriel.example\nReef Farms,reef.example\n',
  });
  await importMail(server, crew.tokens.admin, REP, {
    'all.mbox': mbox(
      Array.from({ length: 6 }, (_, at) => ({
        id: `email-${at}`,
        from: `ida${at}@harbour-oriel.example`,
        to: REP,
        subject: `Gauge ${at}`,
        date: daysAgo(at === 5 ? 200 : at + 1),
      })),
    ),
  });
  await decideAll(server, crew.tokens.admin);
}, 60_000);
afterAll(() => server.remove());

const accuracy = async () => (await admin(routeTo('listRuleAccuracy'))).json.rules as { rule: string; filed: number; corrected: number }[];
const ofDomains = async () => (await accuracy()).find((row) => row.rule === 'match.account-by-domain');
const emailOf = async (subject: string): Promise<number> => {
  const [row] = await owner(server.ownerUrl, 'SELECT email_id AS id FROM email_contents WHERE subject = $1', [subject]);
  return Number(row?.id);
};
const accountOf = async (name: string): Promise<number> => {
  const [row] = await owner(server.ownerUrl, 'SELECT id FROM accounts WHERE name = $1', [name]);
  return Number(row?.id);
};

test('a rule was right about what no one took away, in the span that is asked for', async () => {
  expect(await ofDomains()).toMatchObject({ name: 'The account by the domain', kinds: ['account'], filed: 5, corrected: 0 });
  const all = (await admin(routeTo('listRuleAccuracy', { days: 365 }))).json.rules;
  expect(all.find((row: { rule: string }) => row.rule === 'match.account-by-domain')).toMatchObject({ filed: 6, corrected: 0 });
});

test('what someone moves or removes was wrong; what they add, or seal, says nothing about rules; undone, nothing was said', async () => {
  const [oriel, reef] = [await accountOf('Harbour Oriel'), await accountOf('Reef Farms')];
  const moved = await rep(routeTo('repair'), {
    emails: [await emailOf('Gauge 0')],
    file: [{ kind: 'account', id: reef }],
    takeOff: [{ kind: 'account', id: oriel }],
    reach: 'email',
  });
  expect(moved.status).toBe(200);
  await rep(routeTo('repair'), { emails: [await emailOf('Gauge 1')], takeOff: [{ kind: 'account', id: oriel }], reach: 'email' });
  await rep(routeTo('repair'), { emails: [await emailOf('Gauge 2')], file: [{ kind: 'account', id: reef }], reach: 'email' });
  await rep(routeTo('repair'), { emails: [await emailOf('Gauge 3')], seal: true, reach: 'email' });
  // Sealed mail is in no figure.
  expect(await ofDomains()).toMatchObject({ filed: 4, corrected: 2 });
  const listed = async (filter: object) =>
    ((await admin(routeTo('listEmails', { rule: 'match.account-by-domain', ...filter }))).json.total as number | undefined) ?? -1;
  expect([await listed({}), await listed({ corrected: 'yes' }), await listed({ corrected: 'no' })]).toEqual([5, 2, 3]);
  await rep(routeTo('undoRepair', { id: moved.json.id }));
  expect(await ofDomains()).toMatchObject({ filed: 4, corrected: 1 });
});

test('only administrators are told', async () => {
  expect((await rep(routeTo('listRuleAccuracy'))).status).toBe(403);
  const [row] = await owner(server.ownerUrl, 'SELECT count(*)::int AS n FROM corrected_filings');
  expect(row?.n).toBe(1);
});
