import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { routeTo } from '../testing/routeTo';
import type { Crew, TestServer } from '../testing/testServer';
import { importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

const REP = 'rep@quillmere.example';
const HOUR = 3_600_000;
const PEOPLE = Array.from({ length: 24 }, (_, at) => `person${at % 12}${at < 12 ? '' : '+news'}@firm-${at % 5}.example`);

let server: TestServer;
let crew: Crew;
const random = (
  (seed: number) => () =>
    (seed = (seed * 48271) % 2147483647) / 2147483647
)(20261201);
const below = (most: number): number => Math.floor(random() * most);

/** What was sent and received, as the model knows it: by address, while its email is there. */
const mail: { id: string; from: string; to: string; cc: string }[] = [];

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  // No record is made from mail: who is in a record is what this test says.
  const { document, revision } = (await server.call(routeTo('getDraft'), { token: crew.tokens.admin })).json;
  document.create.people = 'nothing';
  await server.call(routeTo('putDraft', { revision }), { token: crew.tokens.admin, body: document });
  const kept = (await server.call(routeTo('getDraft'), { token: crew.tokens.admin })).json;
  await server.call(routeTo('putDraftLive'), { token: crew.tokens.admin, body: { revision: kept.revision, note: '' } });
  for (let at = 0; at < 120; at += 1) {
    const [person, copied] = [PEOPLE[below(PEOPLE.length)]!, random() < 0.3 ? PEOPLE[below(PEOPLE.length)]! : ''];
    mail.push(
      random() < 0.5
        ? { id: `m${at}`, from: person, to: REP, cc: copied }
        : { id: `m${at}`, from: REP, to: person, cc: random() < 0.2 ? 'other@quillmere.example' : copied },
    );
  }
  await importMail(server, crew.tokens.admin, REP, {
    'a.mbox': mbox(
      mail.map(({ id, from, to, cc }, at) => ({
        id,
        from,
        to,
        ...(cc ? { cc } : {}),
        subject: `Number ${at}`,
        date: new Date(Date.now() - (200 - at) * HOUR).toUTCString(),
      })),
    ),
  });
});
afterAll(() => server.remove());

const isExternal = (address: string): boolean => !address.endsWith('@quillmere.example');
const untagged = (address: string): string => address.replace(/\+[^@]*@/, '@');

/** The external people of the mail that is there, both ways, whom no record has with or without a tag. */
async function expected(): Promise<string[]> {
  const there = new Set((await owner(server.ownerUrl, 'SELECT message_id FROM emails')).map((row) => String(row.message_id)));
  const known = new Set((await owner(server.ownerUrl, 'SELECT address FROM person_addresses')).map((row) => String(row.address)));
  const left = mail.filter(({ id }) => there.has(id));
  const wrote = new Set(left.filter(({ to }) => to === REP).map(({ from }) => from));
  const written = left.filter(({ from }) => from === REP).flatMap(({ to, cc }) => [to, cc]);
  return [...new Set(written)]
    .filter((address) => isExternal(address) && wrote.has(address) && !known.has(address) && !known.has(untagged(address)))
    .sort();
}

async function found(): Promise<string[]> {
  const { groups } = (await server.call(routeTo('listUnknownPeople', { days: 365, whose: 'all' }), { token: crew.tokens.rep })).json;
  return groups.flatMap((group: { people: { address: string }[] }) => group.people.map(({ address }) => address)).sort();
}

describe('unknown people', () => {
  test('are those of the mail itself, whatever becomes of mail and records', async () => {
    expect((await found()).length).toBeGreaterThan(5);
    expect(await found()).toEqual(await expected());
    const some = (table: string, most: number): string =>
      `(SELECT ctid FROM ${table} ORDER BY md5(ctid::text || '${random()}') LIMIT ${1 + below(most)})`;
    const ACTS = [
      () =>
        `INSERT INTO person_addresses (kind, person_id, address) SELECT '${below(2) ? 'contact' : 'lead'}', 1, c.address FROM correspondents c WHERE c.address LIKE 'person${below(12)}%' ON CONFLICT DO NOTHING`,
      () => `DELETE FROM person_addresses WHERE ctid IN ${some('person_addresses', 3)}`,
      () =>
        `UPDATE person_addresses SET address = 'moved' || address WHERE ctid IN ${some('person_addresses', 1)} AND address NOT LIKE 'moved%'`,
      () => `DELETE FROM emails WHERE ctid IN ${some('emails', 4)}`,
    ];
    for (let round = 0; round < 10; round += 1) {
      for (let at = 0; at < 4; at += 1) await owner(server.ownerUrl, ACTS[below(ACTS.length)]!());
      expect(await found()).toEqual(await expected());
    }
  });

  test('are forgotten with their last email', async () => {
    const [before] = await owner(server.ownerUrl, 'SELECT count(*)::int AS n FROM correspondents');
    expect(before?.n).toBeGreaterThan(10);
    await owner(server.ownerUrl, 'DELETE FROM emails');
    expect(await owner(server.ownerUrl, 'SELECT * FROM correspondents')).toEqual([]);
  });
});
