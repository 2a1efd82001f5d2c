import { routeTo } from '../../testing/routeTo';
import type { Destination } from '../../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { inflateRawSync } from 'node:zlib';
import type { Answer, Crew, PlainEmail, TestServer } from '../../testing/testServer';
import { changeRulebook, decideAll, importMail, mbox, owner, setUpCrew, startTestServer } from '../../testing/testServer';

type Who = keyof Crew['tokens'];
let server: TestServer;
let crew: Crew;
const as = (who: Who) => (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens[who], body });
const admin = (target: Destination, body?: unknown) => as('admin')(target, body);
const good = (answer: Answer): Answer['json'] => {
  expect([answer.status, answer.text.slice(0, 300)]).toEqual([200, expect.anything()]);
  return answer.json;
};
const US = 'rep@quillmere.example';
const finn = 'Finn Vale <finn@teeth.example>';
const kim = 'Kim Aster <kim@reef.example>';
const mail = (id: string, from: string, more: Partial<PlainEmail> = {}): PlainEmail => ({
  id: `${id}@mail.example`,
  from,
  to: US,
  subject: `About ${id}`,
  text: `word${id}`,
  ...more,
});
const LATER = new Date(Date.now() - 2 * 86_400_000).toUTCString().replace('GMT', '+0000');
const long = (days: number): string => new Date(Date.now() - days * 86_400_000).toUTCString().replace('GMT', '+0000');

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await admin(routeTo('importRecords', { kind: 'account' }), { text: 'name,domains\nReef,reef.example\n' });
  await admin(routeTo('importRecords', { kind: 'contact' }), { text: 'name,emails,account\nKim Aster,kim@reef.example,Reef\n' });
  await admin(routeTo('importRecords', { kind: 'deal' }), {
    text: `code,name,account,people,open,closed_on\nQH-3001,Old marks,Reef,kim@reef.example,no,${new Date(Date.now() - 400 * 86_400_000).toISOString().slice(0, 10)}\n`,
  });
  await changeRulebook(server, crew.tokens.admin, (rulebook) => {
    rulebook.share.level = 'everyone';
    rulebook.create = { ...rulebook.create, people: 'contact', after: 'firstEmail' };
  });
  await importMail(server, crew.tokens.admin, US, {
    'rep.mbox': mbox([
      mail('alone', finn, { text: 'Finn Vale has a secret tooth' }),
      mail('tagged', 'Finn Vale <finn+private@teeth.example>'),
      mail('both', kim, { cc: finn, text: 'Kim wrote to finn@teeth.example, and FINN VALE answered', subject: 'Finn Vale and the gauge' }),
      mail('named', kim, { text: 'I met Finn Vale yesterday' }),
      mail('plain', kim, { text: 'Nothing of anybody' }),
    ]),
  });
  for (const state of ['draft', 'due', 'refused'])
    await owner(
      server.ownerUrl,
      `INSERT INTO outgoing (writer_id, mailbox_id, kind, state, "to", cc, subject, html) SELECT $1, id, 'new', $2, '[{"name":"Finn Vale","address":"finn@teeth.example"}]', '[{"name":"Kim","address":"kim@reef.example"}]', 'To Finn Vale', '<p>Dear Finn Vale</p>' FROM mailboxes LIMIT 1`,
      [crew.ids.rep, state],
    );
  await owner(
    server.ownerUrl,
    `INSERT INTO templates (kind, owner_id, name, subject, html, words) VALUES ('template', $1, 'For Finn Vale', 'Dear Finn Vale', '<p>finn@teeth.example</p>', 'finn@teeth.example For Finn Vale')`,
    [crew.ids.rep],
  );
  await owner(
    server.ownerUrl,
    `WITH d AS (INSERT INTO documents (owner_id, title, topic) VALUES ($1, 'Offer to Finn Vale', 'Finn Vale') RETURNING id),
      v AS (INSERT INTO document_versions (document_id, number, name, type, size, added_by) SELECT id, 1, 'offer.pdf', 'application/pdf', 1, $1 FROM d RETURNING id)
     INSERT INTO document_links (token_hash, version_id, writer_id, recipients, ends_at) SELECT 'x', id, $1, '[{"name":"Finn Vale","address":"finn@teeth.example"}]', now() + interval '1 day' FROM v`,
    [crew.ids.rep],
  );
  await owner(
    server.ownerUrl,
    `WITH s AS (INSERT INTO series (owner_id, name, steps) VALUES ($1, 'For Finn Vale', '[{"kind":"task","waitDays":1,"templateId":null,"text":"Call Finn Vale"}]') RETURNING *),
      r AS (INSERT INTO series_runs (series_id, series_name, writer_id, mailbox_id, address, name, zone, steps, due_at, look_at) SELECT s.id, s.name, $1, (SELECT id FROM mailboxes LIMIT 1), 'finn@teeth.example', 'Finn Vale', 'UTC', s.steps, now() + interval '1 day', now() + interval '1 day' FROM s RETURNING id)
     INSERT INTO series_steps (run_id, step, subject, begun_at, done_at) SELECT id, 0, 'To Finn Vale', now(), now() FROM r`,
    [crew.ids.rep],
  );
  await owner(
    server.ownerUrl,
    `WITH m AS (INSERT INTO measures (writer_id, address, sent_at) VALUES ($1, 'finn@teeth.example', now()) RETURNING id),
      l AS (INSERT INTO measured_links (token_hash, measure_id, kind, url) SELECT 'y', id, 'clicked', 'https://forms.example/?for=finn@teeth.example' FROM m RETURNING *)
     INSERT INTO visits (measure_id, link_id, class) SELECT measure_id, id, 'person' FROM l`,
    [crew.ids.rep],
  );
  await owner(
    server.ownerUrl,
    `UPDATE workspace SET measuring = jsonb_set(measuring, '{never}', '["finn@teeth.example", "other.example"]')`,
  );
  await owner(
    server.ownerUrl,
    `WITH a AS (INSERT INTO activities (kind, at, direction, text, writer_id) SELECT 'call', now(), 'both', t.text, $1 FROM (VALUES ('Called Finn Vale alone'), ('Called Finn Vale and others')) t(text) RETURNING id, text),
      c AS (INSERT INTO activity_changes (activity_id, was_private, before) SELECT id, false, '{"text":"Finn Vale before"}' FROM a),
      o AS (INSERT INTO activity_records (activity_id, kind, record_id) SELECT a.id, 'account', 999 FROM a WHERE a.text LIKE '%others')
     INSERT INTO activity_records (activity_id, kind, record_id) SELECT a.id, pa.kind, pa.person_id FROM a, person_addresses pa WHERE pa.address = 'finn@teeth.example'`,
    [crew.ids.rep],
  );
}, 60_000);
afterAll(() => server.remove());

/** Every value of every table, and every source in the blob store, as one text. */
async function everything(): Promise<string> {
  const tables = await owner(
    server.ownerUrl,
    `SELECT table_name FROM information_schema.tables WHERE table_schema = 'public' AND table_type = 'BASE TABLE'`,
  );
  const texts: string[] = [];
  for (const { table_name: name } of tables)
    texts.push(
      ...(await owner(server.ownerUrl, `SELECT row_to_json(t)::text AS row FROM "${String(name)}" t`)).map(
        (row) => `${String(name)}: ${String(row.row)}`,
      ),
    );
  const folder = join(server.dataFolder, 'blobs');
  for (const pack of await readdir(folder)) {
    const bytes = await readFile(join(folder, pack));
    // Sources lie deflated one behind the other: each is read where one begins.
    for (let at = 0; at < bytes.length; at += 1) {
      try {
        texts.push(inflateRawSync(bytes.subarray(at)).toString('latin1'));
      } catch {
        continue;
      }
    }
  }
  return texts.join('\n');
}
const FINN = /finn@teeth|finn\+private|finn vale|secret tooth/i;

describe('a person who asks', () => {
  test('is told what is held, as far as whoever asks for them may know', async () => {
    const held = good(await admin(routeTo('findPerson'), { addresses: ['Finn@Teeth.example'] }));
    expect(held).toMatchObject({ names: ['Finn Vale'], emailsAlone: 2, emailsShared: 1, mentions: 1, further: [], rules: [] });
    expect(held.records.map((record: { name: string }) => record.name)).toEqual(['Finn Vale']);
    const word = good(await as('rep')(routeTo('addSharingChoice'), { does: 'seal', scope: 'email', emailId: await idOf('alone') }));
    expect(good(await admin(routeTo('findPerson'), { addresses: ['finn@teeth.example'] })).emailsAlone).toBe(1);
    good(await as('rep')(routeTo('removeSharingChoice', { id: word.id })));
    expect((await as('rep')(routeTo('findPerson'), { addresses: ['finn@teeth.example'] })).status).toBe(403);
    expect((await admin(routeTo('findPerson'), { addresses: ['not an address'] })).status).toBe(422);
  });

  test('gets all of it in an open format', async () => {
    const answer = await admin(routeTo('exportPerson'), { addresses: ['finn@teeth.example'] });
    const made = JSON.parse(answer.text) as {
      format: string;
      emails: { text: string; takesPart: { as: string }[] }[];
      records: { record: { name: string } }[];
      mentionedIn: unknown[];
    };
    expect(made.format).toBe('fulvet-person');
    expect(made.emails.map((email) => email.text).join(' ')).toContain('secret tooth');
    expect(made.emails.flatMap((email) => email.takesPart.map((it) => it.as)).sort()).toEqual(['cc', 'from', 'from']);
    expect([made.records.length, made.mentionedIn.length]).toEqual([1, 1]);
  });
});

async function idOf(id: string): Promise<number> {
  const [row] = await owner(server.ownerUrl, 'SELECT id FROM emails WHERE message_id = $1', [`${id}@mail.example`]);
  return Number(row?.id);
}

describe('a person who asks to be forgotten', () => {
  const order = { addresses: ['finn@teeth.example'], way: 'erase', reference: 'R-17', confirm: 'finn@teeth.example' };

  test('is not, before the address is written again; no one of the team is', async () => {
    expect((await admin(routeTo('erasePerson'), { ...order, confirm: 'finn' })).json.error.code).toBe('not-confirmed');
    expect((await admin(routeTo('erasePerson'), { ...order, addresses: [US], confirm: US })).json.error.code).toBe('ours');
    expect(good(await admin(routeTo('findPerson'), { addresses: ['finn@teeth.example'] })).emailsAlone).toBe(2);
  });

  test('is gone from every table and every source; what others wrote stays; a certificate says what was done', async () => {
    good(await as('rep')(routeTo('addSharingChoice'), { does: 'share', scope: 'person', value: 'finn@teeth.example', level: 'everyone' }));
    good(
      await as('rep')(routeTo('repair'), {
        emails: [await idOf('both')],
        file: [{ kind: 'contact', id: (await owner(server.ownerUrl, `SELECT id FROM contacts WHERE name = 'Finn Vale'`))[0]?.id }],
      }),
    );
    good(await admin(routeTo('startTrial'), { name: 'before' }));
    await decideAll(server, crew.tokens.admin);
    expect(await everything()).toMatch(FINN);
    const done = good(await admin(routeTo('erasePerson'), order));
    expect(done).toMatchObject({ counts: { emailsErased: 2, emailsAnonymised: 1, mentionsRemoved: 1, records: 1 }, reference: 'R-17' });
    expect(done.certificate).toMatch(/Certificate of erasure 1[\s\S]*2 {2}emails erased[\s\S]*SHA-256/);
    await decideAll(server, crew.tokens.admin);
    const left = await everything();
    expect(left.match(new RegExp(`.{0,80}(${FINN.source}).{0,40}`, 'i'))?.[0] ?? null).toBeNull();
    expect(left).toContain('Nothing of anybody');
    const both = good(await admin(routeTo('getEmail', { id: await idOf('both') })));
    expect(both.content).toMatchObject({ subject: '[erased] and the gauge' });
    expect(both.filings.map((filing: { name: string }) => filing.name)).toEqual(expect.arrayContaining(['Kim Aster', 'Reef']));
    expect(JSON.stringify(both.content.participants)).toContain('erased-1@erased.invalid');
    expect(good(await admin(routeTo('search', { text: 'erased' }))).records).toEqual([]);
    expect(good(await admin(routeTo('listErasures'))).erasures).toHaveLength(1);
  });

  test('stays forgotten: later mail of theirs is not kept, and neither is its source', async () => {
    await importMail(server, crew.tokens.admin, US, {
      'later.mbox': mbox([
        mail('later', 'Finn Vale <Finn@teeth.example>', { text: 'secret tooth again', date: LATER }),
        mail('later-both', kim, { cc: 'Finn Vale <finn+new@teeth.example>', text: 'With Finn Vale in copy', date: long(1) }),
        mail('later-plain', kim, { text: 'As ever', date: long(1) }),
      ]),
    });
    expect((await everything()).match(FINN)).toBeNull();
    const emails = good(await admin(routeTo('listEmails'))).emails as { content: { subject: string } | null; outcome: string }[];
    expect(emails.map((email) => email.content?.subject)).toEqual(expect.arrayContaining(['About later-both', 'About later-plain']));
    expect(emails.filter((email) => email.content === null)).toMatchObject([{ outcome: 'kept out' }]);
    // Read again, nothing happens twice.
    const again = await importMail(server, crew.tokens.admin, US, {
      'later.mbox': mbox([mail('later', 'Finn Vale <Finn@teeth.example>', { text: 'secret tooth again', date: LATER })]),
    });
    expect(again.counts).toMatchObject({ new: 0, known: 1 });
  });
});

describe('what is kept no longer', () => {
  test('is shown before it goes, and goes with its source', async () => {
    await importMail(server, crew.tokens.admin, US, {
      'old.mbox': mbox([
        mail('old-news', 'News <news@paper.example>', {
          headers: 'List-Id: <n.paper.example>\r\nList-Unsubscribe: <https://paper.example/off>',
          date: long(100),
        }),
        mail('old-deal', kim, { subject: 'QH-3001 again', text: 'oldmarks', date: long(500) }),
        mail('new-news', 'News <news@paper.example>', {
          headers: 'List-Id: <n.paper.example>\r\nList-Unsubscribe: <https://paper.example/off>',
          date: long(3),
        }),
      ]),
    });
    expect(good(await admin(routeTo('previewRetention', { kind: 'keptOut', days: 30 }))).wouldGo).toBe(1);
    expect(good(await admin(routeTo('previewRetention', { kind: 'closedDeals', days: 365 }))).wouldGo).toBe(1);
    expect((await admin(routeTo('previewRetention', { kind: 'keptOut', days: 0 }))).status).toBe(422);
    for (const [kind, days] of [
      ['keptOut', 30],
      ['closedDeals', 365],
    ] as const)
      good(await admin(routeTo('putRetention'), { kind, days }));
    expect(good(await admin(routeTo('getRetention'))).rules).toMatchObject([
      { kind: 'keptOut', wouldGo: 1 },
      { kind: 'unfiled', days: null, wouldGo: 0 },
      { kind: 'closedDeals', wouldGo: 1 },
    ]);
    expect(good(await admin(routeTo('runRetention')))).toEqual({ gone: 2 });
    expect(await everything()).not.toContain('oldmarks');
    const subjects = (await owner(server.ownerUrl, `SELECT message_id FROM emails WHERE message_id LIKE '%news%'`)).map(
      (row) => row.message_id,
    );
    expect(subjects).toEqual(['new-news@mail.example']);
    expect(good(await admin(routeTo('listAudit', { kind: 'retention' }))).entries[0].about).toContain('deleted 1 emails');
    expect(good(await admin(routeTo('runRetention')))).toEqual({ gone: 0 });
    expect((await as('manager')(routeTo('putRetention'), { kind: 'unfiled', days: 1 })).status).toBe(403);
  });
});
