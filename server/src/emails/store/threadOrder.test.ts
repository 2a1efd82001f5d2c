import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { sql } from 'drizzle-orm';
import { Random } from '@fulvet/demo';
import type { Crew, PlainEmail, TestServer } from '../../testing/testServer';
import { importMail, mbox, owner, setUpCrew, startTestServer } from '../../testing/testServer';
import { fillThreadHashes } from './fillThreadHashes';

const REP = 'rep@quillmere.example';
const PEOPLE = ['Ida <ida@harbour.example>', 'jo@harbour.example', 'una@ferries.example', 'other@quillmere.example'];
const LETTER = 'Reef News <news@reef.example>';

let server: TestServer;
let crew: Crew;

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
});
afterAll(() => server.remove());

/** Two months of mail: letters that are kept out, answers to anything, forwards, subjects that come again, references to what comes later or never. */
function randomMail(random: Random, count: number): PlainEmail[] {
  const ids = Array.from({ length: count + 5 }, (_, at) => `t${at}`);
  return Array.from({ length: count }, (_, at) => {
    const isLetter = random.chance(0.35);
    const subject = random.pick(['Tides', 'Gauges', 'Ice', '']);
    const references = random.chance(0.4) ? Array.from({ length: random.int(1, 3) }, () => `<${random.pick(ids)}>`).join(' ') : undefined;
    return {
      id: ids[at] ?? '',
      from: isLetter ? LETTER : random.pick(PEOPLE),
      to: random.chance(0.5) ? REP : `${REP}, ${random.pick(PEOPLE)}`,
      ...(random.chance(0.3) ? { cc: random.pick([...PEOPLE, LETTER]) } : {}),
      subject: `${random.pick(['', '', 'Re: ', 'Fwd: '])}${subject}`,
      ...(references ? { references } : {}),
      ...(isLetter ? { headers: 'List-Unsubscribe: <https://reef.example/off>' } : {}),
      date: new Date(Date.UTC(2026, 2, 1) + random.int(0, 60 * 24) * 3_600_000).toUTCString(),
      text: `Number ${at}: ${'what it says '.repeat(8)}`,
    };
  });
}

async function conversations(): Promise<string[]> {
  const rows = await owner(
    server.ownerUrl,
    `SELECT string_agg(message_id, ' ' ORDER BY message_id) AS members FROM emails GROUP BY conversation_id ORDER BY 1`,
  );
  return rows.map((row) => String(row.members));
}

const importParts = async (parts: readonly PlainEmail[][]): Promise<void> => {
  for (const part of parts)
    expect(await importMail(server, crew.tokens.rep, REP, { 'part.mbox': mbox(part) })).toMatchObject({ state: 'done' });
};

const empty = (): Promise<unknown> => owner(server.ownerUrl, 'TRUNCATE emails, thread_ids CASCADE');

test('conversations are the same in whatever order mail comes in, kept-out mail between it', async () => {
  for (let seed = 1; seed <= 3; seed += 1) {
    const random = new Random(seed);
    const mail = randomMail(random, 40);
    await empty();
    await importParts([mail]);
    const whole = await conversations();
    expect(whole.join(' ').split(' ')).toHaveLength(40);
    for (let order = 0; order < 2; order += 1) {
      await empty();
      const shuffled = random.shuffled(mail);
      await importParts([shuffled.slice(0, 13), shuffled.slice(13, 26), shuffled.slice(26)]);
      expect({ seed, order, conversations: await conversations() }).toEqual({ seed, order, conversations: whole });
    }
  }
});

test('of mail that is kept out no subject, no name and no address is kept', async () => {
  await empty();
  await importParts([
    [{ id: 'letter', from: LETTER, to: REP, subject: 'Unmistakable Subject', headers: 'List-Unsubscribe: <https://reef.example/off>' }],
  ]);
  const [row] = await owner(
    server.ownerUrl,
    `SELECT e.outcome, to_jsonb(h)::text AS hashes, to_jsonb(e)::text AS email FROM emails e JOIN thread_hashes h ON h.email_id = e.id`,
  );
  expect(row?.outcome).toBe('kept out');
  expect(`${String(row?.hashes)} ${String(row?.email)}`).not.toMatch(/unmistakable|reef news|news@reef/i);
  await expect(server.services.database.as(crew.ids.admin, (tx) => tx.execute(sql`SELECT * FROM thread_hashes`))).rejects.toThrow();
});

test('an installation that had none is given the same hashes', async () => {
  await empty();
  await importParts([randomMail(new Random(99), 60)]);
  const all = (): Promise<unknown[]> => owner(server.ownerUrl, 'SELECT * FROM thread_hashes ORDER BY email_id');
  const before = await all();
  await owner(server.ownerUrl, 'DELETE FROM thread_hashes');
  const { database, blobs, log } = server.services;
  expect(await fillThreadHashes(database, blobs, log)).toBe(60);
  const sorted = (rows: unknown[]): unknown[] =>
    rows.map((row) =>
      Object.fromEntries(Object.entries(row as object).map(([key, value]) => [key, Array.isArray(value) ? [...value].sort() : value])),
    );
  expect(sorted(await all())).toEqual(sorted(before));
});

test('emails whose source is not kept are given thread hashes as well, so that a server of this version starts', async () => {
  await empty();
  const { database, blobs, log } = server.services;
  await importParts([randomMail(new Random(5), 20)]);
  await owner(server.ownerUrl, 'TRUNCATE thread_hashes');
  await owner(server.ownerUrl, 'UPDATE emails SET blob = NULL WHERE id % 2 = 0');
  expect(await fillThreadHashes(database, blobs, log)).toBe(20);
  expect(await fillThreadHashes(database, blobs, log)).toBe(0);
});
