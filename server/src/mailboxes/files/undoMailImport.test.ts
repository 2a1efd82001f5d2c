import { routeTo } from '../../testing/routeTo';
import type { Destination } from '../../testing/routeTo';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Answer, Crew, PlainEmail, TestServer } from '../../testing/testServer';
import { decideAll, importMail, mbox, owner, setUpCrew, startTestServer } from '../../testing/testServer';

const REP = 'rep@quillmere.example';
const OTHER = 'other@quillmere.example';
let server: TestServer;
let crew: Crew;
const admin = (target: Destination, body?: unknown): Promise<Answer> =>
  server.call(target, { token: crew.tokens.admin, ...(body === undefined ? {} : { body }) });
const rows = (query: string): Promise<Record<string, unknown>[]> => owner(server.ownerUrl, query);

const mail = (id: string, more: Partial<PlainEmail> = {}): PlainEmail => ({
  id,
  from: `Ida ${id} <ida@${id}.example>`,
  to: REP,
  subject: `About ${id}`,
  date: new Date(Date.UTC(2026, 8, 1 + id.length)).toUTCString(),
  ...more,
});

/** All that mail and what it created comes to, table by table; what is counted up, or says when, is no part of it. */
async function standing(): Promise<Record<string, string[]>> {
  const tables: Record<string, string> = {
    emails: `jsonb_build_object('id', message_id, 'owners', owner_ids, 'outcome', outcome, 'visibility', visibility)`,
    email_contents: `jsonb_build_object('subject', subject)`,
    participants: `to_jsonb(t) - 'email_id'`,
    sightings: `jsonb_build_object('folder', folder, 'mailbox', mailbox_id)`,
    filings: `jsonb_build_object('kind', kind, 'rule', rule)`,
    contacts: `jsonb_build_object('name', name)`,
    accounts: `jsonb_build_object('name', name)`,
    person_addresses: `jsonb_build_object('address', address)`,
    blobs: `jsonb_build_object('size', size)`,
  };
  const found: Record<string, string[]> = {};
  for (const [table, row] of Object.entries(tables))
    found[table] = (await rows(`SELECT (${row})::text AS row FROM ${table} t ORDER BY 1`)).map((item) => String(item.row));
  return found;
}

const imports = async () => (await admin(routeTo('listImports'))).json.imports as { id: number; undo: number | null; message: string }[];
async function undoLast(): Promise<Answer> {
  const [run] = await imports();
  const undone = await admin(routeTo('undo', { id: run?.undo ?? 0 }));
  await decideAll(server, crew.tokens.admin);
  return undone;
}

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const { json } = await admin(routeTo('getRulebook'));
  json.document.create = { ...json.document.create, people: 'contact', accounts: true, after: 'firstEmail' };
  await admin(routeTo('putRulebook'), json.document);
  await importMail(server, crew.tokens.admin, REP, { 'first.mbox': mbox([mail('harbour'), mail('reef')]) });
  await decideAll(server, crew.tokens.admin);
}, 60_000);
afterAll(() => server.remove());

test('an import is taken back whole: mail, sources, what it created; importing again brings the same', async () => {
  const before = await standing();
  const files = {
    'more.mbox': mbox([
      mail('marsh'),
      mail('tor'),
      mail('harbour'),
      mail('again', { references: '<harbour>', from: 'ida@harbour.example' }),
    ]),
  };
  await importMail(server, crew.tokens.admin, REP, files);
  await decideAll(server, crew.tokens.admin);
  const after = await standing();
  expect(after.emails).toHaveLength((before.emails?.length ?? 0) + 3);
  const undone = await undoLast();
  expect([undone.status, undone.json]).toEqual([200, { changed: 3, kept: [] }]);
  expect(await standing()).toEqual(before);
  expect((await imports())[0]).toMatchObject({ undo: null, message: expect.stringContaining('Undone by') });
  await importMail(server, crew.tokens.admin, REP, files);
  await decideAll(server, crew.tokens.admin);
  expect(await standing()).toEqual(after);
  await undoLast();
});

test('what lies in another mailbox stays there, and is its owner’s alone again', async () => {
  await importMail(server, crew.tokens.admin, REP, { 'rep.mbox': mbox([mail('shared', { cc: OTHER })]) });
  const before = await standing();
  await importMail(server, crew.tokens.admin, OTHER, { 'other.mbox': mbox([mail('shared', { cc: OTHER })]) });
  await decideAll(server, crew.tokens.admin);
  expect((await rows(`SELECT cardinality(owner_ids) AS n FROM emails WHERE message_id = 'shared'`))[0]?.n).toBe(2);
  await undoLast();
  expect(await standing()).toEqual(before);
});

test('what was filed by hand since stays, and says so; an import is undone once', async () => {
  await importMail(server, crew.tokens.admin, REP, { 'hand.mbox': mbox([mail('byhand'), mail('gone')]) });
  await decideAll(server, crew.tokens.admin);
  const [email] = await rows(`SELECT id::int AS id FROM emails WHERE message_id = 'byhand'`);
  const [account] = await rows(`SELECT id::int AS id FROM accounts ORDER BY id LIMIT 1`);
  const repair = await server.call(routeTo('repair'), {
    token: crew.tokens.rep,
    body: { emails: [email?.id], file: [{ kind: 'account', id: account?.id }] },
  });
  expect(repair.status).toBe(200);
  const [run] = await imports();
  const undone = await undoLast();
  expect(undone.json).toMatchObject({ changed: 1, kept: [{ kind: 'email', id: email?.id }] });
  expect(await rows(`SELECT message_id FROM emails WHERE message_id IN ('byhand', 'gone')`)).toEqual([{ message_id: 'byhand' }]);
  expect((await admin(routeTo('undo', { id: run?.undo ?? 0 }))).json.error.code).toBe('undone-already');
  expect((await server.call(routeTo('undo', { id: run?.undo ?? 0 }), { token: crew.tokens.rep })).status).toBe(404);
});
