import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { liveRulebook } from '../../rulebook/liveRulebook';
import type { Crew, PlainEmail, TestServer } from '../../testing/testServer';
import { eml, owner, setUpCrew, startTestServer } from '../../testing/testServer';
import type { ReadMessage } from './readMessage';
import type { SightingPlace, StoreResult } from './storeBatch';
import { storeBatch } from './storeBatch';

const REP = 'rep@quillmere.example';
const ARRIVED = Date.UTC(2026, 4, 9);

let server: TestServer;
let crew: Crew;
let places: Record<'rep' | 'other', SightingPlace>;

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const added = await owner(
    server.ownerUrl,
    `INSERT INTO mailboxes (address, owner_id) SELECT lower(email), id FROM users WHERE id = ANY ($1) ORDER BY id RETURNING id`,
    [[crew.ids.rep, crew.ids.other]],
  );
  const [rep, other] = added.map((row): SightingPlace => ({
    mailboxId: Number(row.id),
    folder: 'INBOX',
    importId: null,
    arrivedAt: ARRIVED,
  }));
  if (!rep || !other) throw new Error('the mailboxes were not made');
  places = { rep, other };
});
afterAll(() => server.remove());

const mail = (id: string, more: Partial<PlainEmail> = {}): PlainEmail => ({
  id,
  from: 'ida@harbour.example',
  to: REP,
  subject: id,
  ...more,
});

async function read(emails: readonly PlainEmail[], ownerId: number): Promise<ReadMessage[]> {
  const raws = emails.map((email) => Buffer.from(eml(email)));
  const facts = await server.services.blobs.read(raws.map((raw) => ({ raw, options: { arrivedAt: ARRIVED } })));
  return raws.flatMap((raw, at) => {
    const found = facts[at];
    return found ? [{ raw, facts: found, file: 'test.mbox', position: at + 1, ownerIds: [ownerId] }] : [];
  });
}

async function store(
  emails: readonly PlainEmail[],
  who: 'rep' | 'other' = 'rep',
  also?: Parameters<typeof storeBatch>[5],
): Promise<StoreResult[]> {
  const { database, blobs } = server.services;
  const { compiled } = await liveRulebook(database);
  return storeBatch(database.worker, blobs, await read(emails, crew.ids[who]), places[who], compiled, also);
}

/** All that is stored of mail. */
const state = async (): Promise<unknown[]> => {
  const tables = ['emails', 'email_contents', 'participants', 'sightings', 'thread_ids', 'thread_hashes', 'blobs'];
  return Promise.all(
    tables.map((table) => owner(server.ownerUrl, `SELECT to_jsonb(t) - 'seen_at' AS row FROM ${table} t ORDER BY to_jsonb(t)::text`)),
  );
};

test('says of each message whether it is new, known from elsewhere, or seen in this place; again, nothing changes', async () => {
  expect(await store([mail('first'), mail('second'), mail('first')])).toEqual(['new', 'new', 'known']);
  const before = await state();
  expect(await store([mail('second'), mail('first')])).toEqual(['known', 'known']);
  expect(await state()).toEqual(before);
  expect(await store([mail('first'), mail('third')], 'other')).toEqual(['other sighting', 'new']);
  const owners = await owner(server.ownerUrl, `SELECT message_id, owner_ids FROM emails ORDER BY message_id`);
  expect(owners).toEqual([
    { message_id: 'first', owner_ids: [crew.ids.rep, crew.ids.other] },
    { message_id: 'second', owner_ids: [crew.ids.rep] },
    { message_id: 'third', owner_ids: [crew.ids.other] },
  ]);
});

test('puts an answer into the conversation of what it answers, and joins two when their parent comes late', async () => {
  await store([mail('leaf-1', { references: '<root>' }), mail('leaf-2', { references: '<root> <branch>' }), mail('alone')]);
  const conversations = async (): Promise<unknown[]> =>
    owner(
      server.ownerUrl,
      `SELECT array_agg(message_id ORDER BY message_id) AS members FROM emails WHERE message_id IN ('leaf-1', 'leaf-2', 'alone', 'root') GROUP BY conversation_id ORDER BY 1`,
    );
  expect(await conversations()).toEqual([{ members: ['alone'] }, { members: ['leaf-1', 'leaf-2'] }]);
  await store([mail('root')]);
  expect(await conversations()).toEqual([{ members: ['alone'] }, { members: ['leaf-1', 'leaf-2', 'root'] }]);
});

test('stores all of a batch or nothing', async () => {
  const before = await state();
  const fails = store([mail('lost-1'), mail('lost-2', { references: '<first>' })], 'rep', () => Promise.reject(new Error('no room')));
  await expect(fails).rejects.toThrow('no room');
  expect(await state()).toEqual(before);
  const told: number[][] = [];
  await store([mail('lost-1'), mail('first')], 'rep', (_, ids) => {
    told.push([...ids]);
    return Promise.resolve();
  });
  const ids = await owner(
    server.ownerUrl,
    `SELECT id::int AS id FROM emails WHERE message_id IN ('lost-1', 'first') ORDER BY message_id DESC`,
  );
  expect(told).toEqual([ids.map((row) => row.id)]);
});
