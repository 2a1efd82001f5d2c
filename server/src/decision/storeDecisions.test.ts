import { Directory } from '@fulvet/core';
import { Random } from '@fulvet/demo';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { RulebookInForce } from '../rulebook/rulebookInForce';
import type { Crew, PlainEmail, TestServer } from '../testing/testServer';
import { changeRulebook, importMail, importRecords, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';
import type { DecidedEmail } from './decideInOrder';
import { decideInOrder } from './decideInOrder';
import { loadInputs } from './inputs/loadInputs';
import { loadWholeDirectory } from './inputs/loadDirectory';
import { storeDecisions } from './storeDecisions';
import type { Tx } from '../base/db/database';

const REP = 'rep@quillmere.example';
const PEOPLE = ['ida@harbour.example', 'jo@mail.harbour.example', 'una@reef.example', 'nil@fish.example', 'bo@freemail.example'];
const SUBJECTS = ['Tide gauges', 'QH-1001 survey', 'Re: Tide gauges', 'About qh 1002', 'Lunch', 'Outer harbour buoys'];

let server: TestServer;
let crew: Crew;
let ids: number[];
let inForce: RulebookInForce;

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const { admin } = crew.tokens;
  await importRecords(server, admin, 'account', 'name,domains\nHarbour Oriel,harbour.example\nReef Farms,reef.example\nFish Works,\n');
  await importRecords(
    server,
    admin,
    'contact',
    'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Oriel\nUna Vale,una@reef.example,Reef Farms\n',
  );
  await importRecords(
    server,
    admin,
    'deal',
    'code,name,account,people,open\nQH-1001,Tide gauges,Harbour Oriel,ida@harbour.example,yes\nQH-1002,Outer harbour,Harbour Oriel,,yes\nQH-1003,Reef marks,Reef Farms,una@reef.example,yes\n',
  );
  await changeRulebook(server, admin, (rulebook) => {
    rulebook.match.deal = 'scored';
    rulebook.create = { ...rulebook.create, people: 'nothing' };
    rulebook.keepOut.machineMail = ['newsletter'];
  });
  const random = new Random(11);
  const mail = Array.from({ length: 80 }, (_, at): PlainEmail => {
    const isSent = random.chance(0.4);
    const person = random.pick(PEOPLE);
    return {
      id: `m${at}`,
      from: isSent ? REP : person,
      to: isSent ? person : REP,
      ...(random.chance(0.3) ? { cc: random.pick(PEOPLE) } : {}),
      subject: random.pick(SUBJECTS),
      ...(random.chance(0.3) && at > 0 ? { references: `<m${random.int(0, at - 1)}>` } : {}),
      ...(random.chance(0.15) ? { headers: 'List-Unsubscribe: <https://reef.example/off>' } : {}),
      date: new Date(Date.UTC(2026, 2, 1) + at * 40_000_000).toUTCString(),
    };
  });
  await importMail(server, crew.tokens.rep, REP, { 'a.mbox': mbox(mail) });
  ids = (await owner(server.ownerUrl, 'SELECT id::int AS id FROM emails ORDER BY sent_at, id')).map((row) => Number(row.id));
  inForce = await RulebookInForce.load(server.services.database);
}, 60_000);
afterAll(() => server.remove());

/** Decides emails in their order by a directory, as if none had been decided. */
async function decided(tx: Tx, directoryOf?: () => Promise<Directory>): Promise<DecidedEmail[]> {
  const { emails, records } = await loadInputs(tx, server.services.blobs, ids, inForce.rulebooks, { memories: new Map() });
  let last = 0;
  const directory = directoryOf ? await directoryOf() : new Directory(records);
  return decideInOrder(emails, (email) => inForce.versionFor(email).compiled, directory, new Map(), { next: () => (last -= 1) });
}

const stored = (): Promise<unknown> =>
  owner(
    server.ownerUrl,
    `SELECT e.id, e.outcome, e.direction, e.visibility, e.steps, e.external_domains, e.decided_at, k.docket, k.questions, (SELECT jsonb_agg(to_jsonb(f) ORDER BY f.kind, f.record_id) FROM filings f WHERE f.email_id = e.id) AS filings
     FROM emails e LEFT JOIN dockets k ON k.email_id = e.id ORDER BY e.id`,
  );

test('the records that are loaded for emails decide them as all records do', async () => {
  await server.services.database.work(async (tx) => {
    const some = await decided(tx);
    const all = await decided(tx, async () => (await loadWholeDirectory(tx, inForce.rulebooks)).directory);
    expect(some.map(({ decision }) => decision)).toEqual(all.map(({ decision }) => decision));
    expect(new Set(some.map(({ decision }) => decision.outcome)).size).toBeGreaterThan(2);
  });
});

test('what stands already is not written again', async () => {
  const before = await stored();
  const { changed, emailIds } = await server.services.database.work(async (tx) =>
    storeDecisions(tx, await decided(tx), { versionFor: (email) => inForce.versionFor(email) }),
  );
  expect([changed, emailIds]).toEqual([0, []]);
  expect(await stored()).toEqual(before);
});

test('what is kept out keeps no text, no names and no filing; let in again, it has all of them', async () => {
  const versionFor = (): { version: number } => ({ version: inForce.live.version });
  const texts = async (): Promise<unknown> => (await owner(server.ownerUrl, 'SELECT count(*)::int AS texts FROM email_contents'))[0]?.texts;
  const [before, textsBefore] = [await stored(), await texts()];
  const out = await inForce.changed(server.services.database.worker, (rulebook) => ({
    ...rulebook,
    keepOut: {
      ...rulebook.keepOut,
      entries: [{ id: 'reef', kind: 'domain', value: 'reef.example', exactly: false, effect: 'keepOut', note: '', until: null }],
    } as never,
  }));
  await server.services.database.work(async (tx) => {
    const { emails, records } = await loadInputs(tx, server.services.blobs, ids, out.rulebooks, { memories: new Map() });
    const those = decideInOrder(emails, () => out.live.compiled, new Directory(records), new Map(), { next: () => -1 });
    const { changed } = await storeDecisions(tx, those, { versionFor });
    expect(changed).toBeGreaterThan(0);
  });
  const [left] = await owner(
    server.ownerUrl,
    `SELECT count(*)::int AS emails, count(c.email_id)::int AS texts, count(f.email_id)::int AS filings, count(p.email_id)::int AS people
     FROM emails e LEFT JOIN email_contents c ON c.email_id = e.id LEFT JOIN filings f ON f.email_id = e.id LEFT JOIN participants p ON p.email_id = e.id
     WHERE e.outcome = 'kept out' AND 'reef.example' = ANY (e.external_domains)`,
  );
  expect(left).toMatchObject({ texts: 0, filings: 0, people: 0 });
  expect(Number(left?.emails)).toBeGreaterThan(5);
  await server.services.database.work(async (tx) => storeDecisions(tx, await decided(tx), { versionFor }));
  const withoutTime = (rows: unknown): unknown => (rows as { decided_at: unknown }[]).map(({ decided_at: _, ...row }) => row);
  expect(withoutTime(await stored())).toEqual(withoutTime(before));
  expect(await texts()).toBe(textsBefore);
});
