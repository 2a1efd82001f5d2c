import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { routeTo } from '../testing/routeTo';
import type { Crew, TestServer } from '../testing/testServer';
import { importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

const REP = 'rep@quillmere.example';
const DAY = 86_400_000;

let server: TestServer;
let crew: Crew;

const ago = (days: number): string => new Date(Date.now() - days * DAY).toUTCString();
const numbers = async (who: keyof Crew['tokens']): Promise<{ emails: number; newest: string | null; days: number[] }> => {
  const { mailboxes } = (await server.call(routeTo('listMailboxes'), { token: crew.tokens[who] })).json;
  const { emails, newest, perDay } = mailboxes.find(({ address }: { address: string }) => address === REP);
  return { emails, newest, days: perDay };
};

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const mail = (id: string, days: number) => ({ id, from: 'ida@harbour.example', to: REP, subject: id, date: ago(days) });
  await importMail(server, crew.tokens.admin, REP, {
    'a.mbox': mbox([mail('old', 300), mail('week', 7), mail('twice', 2), mail('late', 2)]),
  });
});
afterAll(() => server.remove());

test('a mailbox counts its mail once, by day, for those who look after it; others see that it is there', async () => {
  // The same email in a second folder.
  await owner(
    server.ownerUrl,
    `INSERT INTO sightings (email_id, mailbox_id, folder) SELECT s.email_id, s.mailbox_id, 'Copies' FROM sightings s JOIN emails e ON e.id = s.email_id WHERE e.message_id = 'twice'`,
  );
  for (const who of ['admin', 'rep'] as const) {
    const { emails, newest, days } = await numbers(who);
    expect([emails, days.length, days.at(-3), days.at(-8)]).toEqual([4, 30, 2, 1]);
    expect(Date.now() - Date.parse(newest ?? '')).toBeLessThan(3 * DAY);
  }
  expect(await numbers('other')).toEqual({ emails: 0, newest: null, days: [] });
});

test('sealed mail is in the numbers of its owner alone', async () => {
  const [late] = await owner(server.ownerUrl, `SELECT id FROM emails WHERE message_id = 'late'`);
  const body = { emails: [late?.id], reach: 'email', seal: true };
  expect((await server.call(routeTo('repair'), { token: crew.tokens.rep, body })).status).toBe(200);
  expect([(await numbers('rep')).emails, (await numbers('rep')).days.at(-3)]).toEqual([4, 2]);
  expect([(await numbers('admin')).emails, (await numbers('admin')).days.at(-3)]).toEqual([3, 1]);
});

test('who uses a mailbox has its numbers, of the mail that has come since as of what they were given', async () => {
  const [box] = await owner(server.ownerUrl, 'SELECT id FROM mailboxes WHERE address = $1', [REP]);
  const put = await server.call(routeTo('putMailboxSettings', { id: box?.id }), {
    token: crew.tokens.rep,
    body: { userIds: [crew.ids.other] },
  });
  expect(put.status).toBe(200);
  expect((await numbers('other')).emails).toBeGreaterThanOrEqual(3);
});

test('a mailbox without new mail says when its newest came', async () => {
  await owner(server.ownerUrl, `UPDATE emails SET sent_at = sent_at - interval '1 year'`);
  const { newest, days } = await numbers('rep');
  expect(days.every((count) => count === 0)).toBe(true);
  expect(Math.round((Date.now() - Date.parse(newest ?? '')) / DAY)).toBe(367);
});

/** What the counts of days say, and what counting the mail itself says. */
async function bothCounts(): Promise<{ kept: unknown; counted: unknown }> {
  const kept = await owner(server.ownerUrl, 'SELECT mailbox_id, day::text, emails FROM mailbox_days WHERE emails <> 0 ORDER BY 1, 2');
  const counted = await owner(
    server.ownerUrl,
    `SELECT s.mailbox_id, (e.sent_at AT TIME ZONE 'UTC')::date::text AS day, count(DISTINCT e.id)::int AS emails FROM sightings s JOIN emails e ON e.id = s.email_id GROUP BY 1, 2 ORDER BY 1, 2`,
  );
  return { kept, counted };
}

test('the counts of days follow whatever happens to mail, in any order and in batches', async () => {
  const random = (
    (seed: number) => () =>
      (seed = (seed * 48271) % 2147483647) / 2147483647
  )(20261130);
  const below = (most: number): number => Math.floor(random() * most);
  await importMail(server, crew.tokens.admin, 'other@quillmere.example', {
    'b.mbox': mbox(
      Array.from({ length: 60 }, (_, at) => ({
        id: `many-${at}`,
        from: 'ida@harbour.example',
        to: REP,
        subject: `Number ${at}`,
        date: ago(below(9)),
      })),
    ),
  });
  const some = (most: number): string => `SELECT id FROM emails ORDER BY md5(id::text || '${random()}') LIMIT ${1 + below(most)}`;
  const ACTS = [
    () =>
      `INSERT INTO sightings (email_id, mailbox_id, folder) SELECT e.id, m.id, 'F${below(3)}' FROM (${some(9)}) e CROSS JOIN mailboxes m ON CONFLICT DO NOTHING`,
    () => `DELETE FROM sightings WHERE email_id IN (${some(9)}) AND folder = 'F${below(3)}'`,
    () => `UPDATE emails SET sent_at = sent_at + interval '${below(50)} hours' WHERE id IN (${some(5)})`,
    () => `DELETE FROM emails WHERE id IN (${some(2)})`,
  ];
  for (let at = 0; at < 60; at += 1) await owner(server.ownerUrl, ACTS[below(ACTS.length)]!());
  const { kept, counted } = await bothCounts();
  expect(kept).toEqual(counted);
  expect((counted as unknown[]).length).toBeGreaterThan(5);
});
