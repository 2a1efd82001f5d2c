import { routeTo } from '../../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Answer, Crew, PlainEmail, TestServer } from '../../testing/testServer';
import { eml, importMail, owner, setUpCrew, startTestServer } from '../../testing/testServer';

let server: TestServer;
let crew: Crew;

const SECRET = 'The price that we agreed is 41,250, which no one else is to learn before the contract is signed on Friday.';
const letter = (id: string, more: Partial<PlainEmail> = {}): PlainEmail => ({
  id,
  from: 'Ida Brandt <ida@harbour.example>',
  to: 'rep@quillmere.example',
  subject: 'Price',
  text: SECRET,
  ...more,
});
const inbox = (who: 'rep' | 'other', email: PlainEmail): Promise<Answer['json']> =>
  importMail(server, crew.tokens[who], `${who}@quillmere.example`, { 'mail.eml': eml(email) });
const emailsOf = (id: string): Promise<Record<string, unknown>[]> =>
  owner(
    server.ownerUrl,
    `SELECT e.id::int, e.owner_ids::int[], e.blob, e.visibility, e.outcome, e.conversation_id::int, btrim(c.body, E' \\n\\r') AS body, (SELECT array_agg(p.role || ' ' || p.address ORDER BY p.role) FROM participants p WHERE p.email_id = e.id) AS people
     FROM emails e LEFT JOIN email_contents c ON c.email_id = e.id WHERE e.message_id = $1 ORDER BY e.id`,
    [id],
  );

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
});
afterAll(() => server.remove());

const FORGERIES: [string, Partial<PlainEmail>][] = [
  ['of one line', { text: 'x' }],
  ['that is empty', { text: '' }],
  ['with a blind copy', { text: 'x', bcc: 'mallory@elsewhere.example' }],
  ['to others', { text: 'x', to: 'other@quillmere.example', cc: 'mallory@elsewhere.example' }],
  ['with the beginning of the text', { text: SECRET.slice(0, 90) }],
  ['with the text behind a list’s footer', { text: `x\n\n____________________\n${SECRET}\nunsubscribe` }],
  ['that calls itself a list’s', { text: 'x', headers: 'List-Id: <list.quillmere.example>\r\nX-Original-From: Ida <ida@harbour.example>' }],
];

describe.each(FORGERIES)('a forged copy %s', (name, change) => {
  const number = FORGERIES.findIndex(([known]) => known === name);
  const id = `f${number}@harbour.example`;
  const original = letter(id, { text: `${SECRET} word${number}` });
  let before: Record<string, unknown> | undefined;

  beforeAll(async () => {
    await inbox('rep', original);
    [before] = await emailsOf(id);
    await inbox('other', { ...original, ...change });
  });

  test('is an email of its own in the same conversation, and changes nothing about the real one', async () => {
    const [real, forged, ...more] = await emailsOf(id);
    expect(more).toEqual([]);
    expect(real).toEqual(before);
    expect(real).toMatchObject({ owner_ids: [crew.ids.rep], body: original.text });
    expect(forged).toMatchObject({ owner_ids: [crew.ids.other], conversation_id: real?.conversation_id });
  });

  test('opens nothing', async () => {
    const [real] = await emailsOf(id);
    const token = crew.tokens.other;
    for (const route of ['getEmail', 'getEmailSource', 'getEmailHtml'] as const) {
      const answer = await server.call(routeTo(route, { id: real?.id }), { token });
      expect({ route, status: answer.status }).toEqual({ route, status: 404 });
    }
    expect((await server.call(routeTo('search', { text: `word${number}` }), { token })).json.emailTotal).toBe(0);
  });

  test('opens nothing that is sealed, either', async () => {
    const [real] = await emailsOf(id);
    await server.call(routeTo('repair'), { token: crew.tokens.rep, body: { emails: [real?.id], reach: 'email', seal: true } });
    await inbox('other', { ...original, ...change });
    const [sealed] = await emailsOf(id);
    expect(sealed).toMatchObject({ outcome: 'sealed', owner_ids: [crew.ids.rep] });
    expect((await server.call(routeTo('getEmail', { id: real?.id }), { token: crew.tokens.other })).status).toBe(404);
  });
});

test('a whole copy in a colleague’s mailbox is the same email, whichever comes first', async () => {
  await inbox('other', letter('whole@harbour.example'));
  await inbox('rep', letter('whole@harbour.example', { headers: 'Received: from a by b; Mon, 4 May 2026 10:00:05 +0000' }));
  expect(await emailsOf('whole@harbour.example')).toMatchObject([{ owner_ids: [crew.ids.other, crew.ids.rep] }]);
});

describe('a blind copy', () => {
  const id = 'blind@quillmere.example';
  const sent = letter(id, { from: 'rep@quillmere.example', to: 'ida@harbour.example', cc: 'other@quillmere.example' });
  const people = async (): Promise<unknown> => (await emailsOf(id))[0]?.people;

  beforeAll(async () => {
    // The recipient claims someone else; then the sender's own copy comes.
    await inbox('other', { ...sent, bcc: 'mallory@elsewhere.example' });
    await inbox('rep', { ...sent, bcc: 'jo@harbour.example' });
  });

  test('is told by its sender’s own copy alone', async () => {
    expect(await people()).toEqual([
      'bcc jo@harbour.example',
      'cc other@quillmere.example',
      'from rep@quillmere.example',
      'to ida@harbour.example',
    ]);
    await inbox('other', { ...sent, bcc: 'kim@reef.example' });
    expect(await people()).toContain('bcc jo@harbour.example');
    expect(await people()).not.toContain('bcc kim@reef.example');
  });

  test('is known to those who hold that copy, by every way out', async () => {
    const [row] = await emailsOf(id);
    const ways = [
      ...(['getEmail', 'getEmailSource', 'getEmailHtml'] as const).map((route) => routeTo(route, { id: row?.id })),
      routeTo('exportMail'),
      routeTo('exportDecisions'),
    ];
    for (const way of ways) {
      const { text } = await server.call(way, { token: crew.tokens.other });
      expect({ way, leaks: text.includes('jo@harbour') }).toEqual({ way, leaks: false });
    }
    const found = async (token: string): Promise<number> =>
      (await server.call(routeTo('search', { text: 'jo@harbour.example' }), { token })).json.emailTotal +
      (await server.call(routeTo('listEmails', { person: 'jo@harbour.example' }), { token })).json.emails.length;
    expect(await found(crew.tokens.other)).toBe(0);
    expect((await server.call(routeTo('getEmail', { id: row?.id }), { token: crew.tokens.rep })).text).toContain('jo@harbour');
  });
});

describe('copies that an earlier version had united by Message-ID, sender and date', () => {
  const id = 'former@harbour.example';
  const sql = (text: string, values: unknown[] = []): Promise<Record<string, unknown>[]> => owner(server.ownerUrl, text, values);

  test('are separated where the source does not name their mailbox', async () => {
    await inbox('rep', letter(id));
    const [email] = await emailsOf(id);
    await sql(`UPDATE emails SET identity = 'as it was', identity_version = 1, owner_ids = owner_ids || $2::bigint WHERE id = $1`, [
      email?.id,
      crew.ids.other,
    ]);
    await sql(
      `INSERT INTO sightings (email_id, mailbox_id, folder) SELECT $1, id, 'imported' FROM mailboxes WHERE address = 'other@quillmere.example'`,
      [email?.id],
    );
    await sql(
      `INSERT INTO participants (email_id, role, position, address, domain, name) VALUES ($1, 'cc', 9, 'mallory@elsewhere.example', 'elsewhere.example', '')`,
      [email?.id],
    );
    const again = await server.again();
    await again.stop();
    const [after] = await emailsOf(id);
    expect(after).toMatchObject({ owner_ids: [crew.ids.rep], people: ['from ida@harbour.example', 'to rep@quillmere.example'] });
    expect((await server.call(routeTo('getEmail', { id: email?.id }), { token: crew.tokens.other })).status).toBe(404);
  });

  test('are recognised again afterwards', async () => {
    await inbox('rep', letter(id));
    expect(await emailsOf(id)).toHaveLength(1);
    await inbox('other', letter(id));
    expect(await emailsOf(id)).toMatchObject([{ owner_ids: [crew.ids.rep, crew.ids.other] }]);
  });
});
