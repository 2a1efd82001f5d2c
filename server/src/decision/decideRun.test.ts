import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { routeTo } from '../testing/routeTo';
import type { Crew, TestServer } from '../testing/testServer';
import { importMail, mbox, owner, nothingLeftToDecide, setUpCrew, startTestServer } from '../testing/testServer';
import { runDecisions } from './decideRun';

const REP = 'rep@quillmere.example';
const HOUR = 3_600_000;
const LONG = 60;

let server: TestServer;
let crew: Crew;
const random = (
  (seed: number) => () =>
    (seed = (seed * 48271) % 2147483647) / 2147483647
)(20261202);

/** One long conversation; every email refers to the one before it. It turns to another matter in its middle. */
const conversation = Array.from({ length: LONG }, (_, at) => ({
  id: `long-${at}`,
  from: at % 2 === 0 ? 'ida@harbour.example' : REP,
  to: at % 2 === 0 ? REP : 'ida@harbour.example',
  subject: at < 30 ? `Re: QH-20${10 + (at % 3)} tide gauge` : 'Re: The quay wall',
  date: new Date(Date.now() - (LONG - at) * HOUR).toUTCString(),
  ...(at > 0 ? { references: `<long-${at - 1}>` } : {}),
}));

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
    body: { text: 'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Oriel\n' },
  });
  await server.call(routeTo('importRecords', { kind: 'deal' }), {
    ...admin,
    body: { text: 'name,code,account\nGauges,QH-2010,Harbour Oriel\nMasts,QH-2011,Harbour Oriel\nQuay wall,QH-2012,Harbour Oriel\n' },
  });
});
afterAll(() => server.remove());

const undecided = (what: string): Promise<unknown> => owner(server.ownerUrl, `UPDATE emails SET decided_at = NULL WHERE ${what}`);
const run = () => runDecisions(server.services.database, server.services.blobs, 'undecided');
const standing = () =>
  owner(
    server.ownerUrl,
    `SELECT e.message_id, e.outcome, e.steps, k.docket, (SELECT jsonb_agg(jsonb_build_array(f.kind, f.record_id, f.rule) ORDER BY f.kind, f.record_id) FROM filings f WHERE f.email_id = e.id) AS filings
      FROM emails e JOIN dockets k ON k.email_id = e.id ORDER BY e.message_id`,
  );

test('one more email of a long conversation is decided alone, as if all of it were decided', async () => {
  await importMail(server, crew.tokens.admin, REP, { 'a.mbox': mbox(conversation.slice(0, -1)) });
  await importMail(server, crew.tokens.admin, REP, { 'b.mbox': mbox(conversation.slice(-1)) });
  // A job that an import queued would decide what is set aside below.
  await nothingLeftToDecide(server);
  const stood = await standing();
  expect(stood).toHaveLength(LONG);
  // The deals that its subjects name come and go.
  expect(new Set(stood.map(({ filings }) => JSON.stringify(filings))).size).toBeGreaterThan(3);
  await undecided(`message_id = 'long-${LONG - 1}'`);
  expect((await run()).decided).toBe(1);
  expect(await standing()).toEqual(stood);
  await undecided('true');
  expect((await run()).decided).toBe(LONG);
  expect(await standing()).toEqual(stood);
});

test('what comes late into a conversation is decided with what follows it, in any order of arrival', async () => {
  const stood = await standing();
  for (let round = 0; round < 6; round += 1) {
    const first = Math.floor(random() * LONG);
    const more = [first, first + Math.floor(random() * (LONG - first))].map((at) => `'long-${at}'`);
    await undecided(`message_id IN (${more.join(', ')})`);
    expect((await run()).decided).toBe(LONG - first);
    expect(await standing()).toEqual(stood);
  }
  await owner(server.ownerUrl, 'DELETE FROM emails');
  const shuffled = [...conversation].sort(() => random() - 0.5);
  for (let at = 0; at < LONG; at += 12) {
    await importMail(server, crew.tokens.admin, REP, { 'c.mbox': mbox(shuffled.slice(at, at + 12)) });
  }
  const withoutIds = (rows: unknown): unknown => JSON.parse(JSON.stringify(rows).replace(/"(?:emailId|email)":\d+/g, '"email":0'));
  expect(withoutIds(await standing())).toEqual(withoutIds(stood));
});

test('mail of an import that is still being read waits for the rest of it, unless it is elsewhere, too', async () => {
  await undecided('true');
  const reading = (phase: string): Promise<unknown> =>
    owner(server.ownerUrl, `UPDATE work SET state = 'running', phase = $1 WHERE id IN (SELECT work_id FROM imports)`, [phase]);
  await reading('reading');
  expect((await run()).decided).toBe(0);
  await owner(
    server.ownerUrl,
    `INSERT INTO sightings (email_id, mailbox_id, folder) SELECT e.id, m.id, 'INBOX' FROM emails e CROSS JOIN mailboxes m WHERE e.message_id = 'long-${LONG - 3}' AND m.address = $1`,
    [REP],
  );
  // What follows it in its conversation goes with it.
  expect((await run()).decided).toBe(3);
  await reading('deciding');
  expect((await run()).decided).toBe(LONG);
});
