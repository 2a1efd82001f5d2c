import { routeTo } from '../../testing/routeTo';
import type { Destination } from '../../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { gzipSync } from 'node:zlib';
import type { Crew, PlainEmail, TestServer } from '../../testing/testServer';
import { decideAll, decisions, eml, importMail, mbox, owner, setUpCrew, startTestServer } from '../../testing/testServer';
import { zipOf } from '../../testing/zipOf';

let server: TestServer;
let crew: Crew;
const rep = 'rep@quillmere.example';

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
});
afterAll(() => server.remove());

/** The whole content of the tables that mail lives in, without when it was written down. */
async function everything(): Promise<string> {
  const tables = [
    'emails',
    'email_contents',
    'participants',
    'attachments',
    'sightings',
    'filings',
    'thread_ids',
    'contacts',
    'accounts',
    'leads',
    'person_addresses',
    'account_domains',
  ];
  const dumps = await Promise.all(
    tables.map((table) =>
      owner(server.ownerUrl, `SELECT md5(coalesce(string_agg(t::text, E'\\n' ORDER BY t::text), '')) AS print FROM ${table} t`),
    ),
  );
  return dumps.map((rows) => String(rows[0]?.print)).join(' ');
}

const hello = (id: string, more: Partial<PlainEmail> = {}): PlainEmail => ({ id, from: 'Ida <ida@harbour.example>', to: rep, ...more });

describe('import of mail', () => {
  test('tells what became of every message, and a second import changes nothing', async () => {
    const file = mbox([hello('a1'), hello('a2', { references: '<a1>', subject: 'Re: Gauge' }), hello('a1')]);
    const first = await importMail(server, crew.tokens.rep, rep, { 'a.mbox': file });
    expect(first).toMatchObject({ state: 'done', counts: { new: 2, known: 1, otherSighting: 0, unreadable: 0 } });
    const before = await everything();
    const second = await importMail(server, crew.tokens.rep, rep, { 'renamed.mbox': file });
    expect(second.counts).toMatchObject({ new: 0, known: 3 });
    expect(await everything()).toBe(before);
    // What a file is called tells what lies in it.
    const of = async (who: 'rep' | 'admin') => {
      const get = async (target: Destination) => (await server.call(target, { token: crew.tokens[who] })).json;
      const { items } = await get(routeTo('listImportItems', { id: second.id }));
      return { files: (await get(routeTo('getImport', { id: second.id }))).files, item: items[0].file };
    };
    expect(await of('rep')).toEqual({ files: ['renamed.mbox'], item: expect.stringContaining('renamed.mbox') });
    expect(await of('admin')).toEqual({ files: [], item: '' });
  });

  test('an email in two mailboxes is one email with two sightings, and the Bcc of the sender’s copy counts', async () => {
    const sent = { id: 'b1', from: rep, to: 'ida@harbour.example', cc: 'other@quillmere.example' };
    await importMail(server, crew.tokens.admin, 'other@quillmere.example', { 'in.eml': eml(sent) });
    const run = await importMail(server, crew.tokens.rep, rep, { 'sent.eml': eml({ ...sent, bcc: 'jo@harbour.example' }) });
    expect(run.counts).toMatchObject({ new: 0, otherSighting: 1 });
    const [row] = (await server.call(routeTo('listEmails', { person: 'jo@harbour.example' }), { token: crew.tokens.rep })).json.emails;
    expect(row.mailboxes).toEqual(['other@quillmere.example', rep]);
    const roles = async (token: string): Promise<string[]> =>
      (await server.call(routeTo('getEmail', { id: row.id }), { token })).json.content.participants.map(
        (person: { role: string }) => person.role,
      );
    expect(await roles(crew.tokens.rep)).toContain('bcc');
    expect(await roles(crew.tokens.other)).toEqual(['from', 'to', 'cc']);
  });

  test('two emails that share a Message-ID stay two', async () => {
    const run = await importMail(server, crew.tokens.rep, rep, {
      'c.mbox': mbox([hello('c1'), hello('c1', { from: 'jo@harbour.example' })]),
    });
    expect(run.counts.new).toBe(2);
  });

  test('reads eml, gz and zip by what they are, not by their names', async () => {
    const zip = zipOf({
      'inbox/d3.eml': eml(hello('d3')),
      'archive.mbox': mbox([hello('d4'), hello('d5')]),
      'photo.jpg': '\u0000\u0000not mail',
      'nested.gz': gzipSync(eml(hello('d6'))),
    });
    const run = await importMail(server, crew.tokens.rep, rep, {
      'd1.txt': eml(hello('d1')),
      'd2.mbox.gz': gzipSync(mbox([hello('d2')])),
      'all.bin': zip,
    });
    expect(run.counts).toMatchObject({ new: 6, unreadable: 1 });
    const { items } = (await server.call(routeTo('listImportItems', { id: run.id, result: 'unreadable' }), { token: crew.tokens.rep }))
      .json;
    expect(items[0]).toMatchObject({ file: 'all.bin/photo.jpg', emailId: null });
    expect(items[0].problems[0].message).toContain('no email');
  });

  test('a broken message is kept with what could be read, named, and stops nothing', async () => {
    const broken = 'From x@y.example Mon May  4 10:00:00 2026\nnot a header\n\nnor a body\n\n';
    const run = await importMail(server, crew.tokens.rep, rep, {
      'e.mbox': broken + mbox([hello('e2', { date: 'nonsense' }), hello('e3')]),
      'empty.mbox': '',
      'truncated.gz': gzipSync(mbox([hello('e4')])).subarray(0, 40),
    });
    expect(run.state).toBe('done');
    const { items } = (await server.call(routeTo('listImportItems', { id: run.id, problems: 'yes' }), { token: crew.tokens.rep })).json;
    const said = items
      .map((item: { problems: { message: string }[] }) => item.problems.map((problem) => problem.message).join(' '))
      .join('\n');
    expect(said).toMatch(/no header fields[\s\S]*cannot be read[\s\S]*is empty[\s\S]*cannot be read further/);
    expect(Object.keys(await decisions(server, crew.tokens.rep))).toEqual(expect.arrayContaining(['e2', 'e3']));
  });

  test('a zip bomb is stopped, and what was read before stands', async () => {
    const bomb = gzipSync(`Subject: bomb\n\n${'x'.repeat(60_000_000)}`);
    const { readMailFile } = await import('./mailFiles');
    const { writeFile } = await import('node:fs/promises');
    const path = `${server.dataFolder}/bomb.gz`;
    await writeFile(path, bomb);
    const found = [];
    for await (const item of readMailFile(path, 'bomb.gz', { maxUnfoldedBytes: 10_000_000 })) found.push(item);
    expect(JSON.stringify(found)).toContain('made to do harm');
  });

  test('a rep imports into the own mailbox only', async () => {
    const refused = await server.call(routeTo('createImport'), { token: crew.tokens.rep, body: { mailbox: 'other@quillmere.example' } });
    expect([refused.status, refused.json.error.code]).toEqual([403, 'not-your-mailbox']);
  });

  test('harmful headers are stored without harm', async () => {
    const run = await importMail(server, crew.tokens.rep, rep, {
      'f.mbox': mbox([
        hello('f1', { to: Array.from({ length: 10_000 }, (_, at) => `p${at}@crowd.example`).join(', ') }),
        hello('f2', { subject: 's'.repeat(1_000_000) }),
        hello('f3', { headers: `X-Big: ${'y'.repeat(10_000_000)}`, text: 'a\u0000b' }),
      ]),
    });
    expect(run).toMatchObject({ state: 'done', counts: { new: 3 } });
    const [row] = (await server.call(routeTo('listEmails', { person: 'p998@crowd.example' }), { token: crew.tokens.rep })).json.emails;
    expect(row.content.recipientCount).toBe(999);
  });
});

describe('conversations in the store', () => {
  const groups = async (prefix: string): Promise<string[]> => {
    const all = Object.values(await decisions(server, crew.tokens.rep)).filter((value) => value.messageId?.startsWith(prefix));
    const byId = new Map<number, string[]>();
    for (const item of all) byId.set(item.conversation, [...(byId.get(item.conversation) ?? []), item.messageId]);
    return [...byId.values()].map((ids) => ids.sort().join(' ')).sort();
  };

  test('a parent that arrives late, in another import, joins two conversations', async () => {
    await importMail(server, crew.tokens.rep, rep, {
      'x.mbox': mbox([hello('g2', { references: '<g1>', subject: 'Re: Lock' }), hello('g4', { references: '<g3>', subject: 'Re: Weir' })]),
    });
    expect(await groups('g')).toEqual(['g2', 'g4']);
    await importMail(server, crew.tokens.rep, rep, {
      'y.mbox': mbox([hello('g3', { references: '<g1>', subject: 'Re: Weir', date: 'Sun, 3 May 2026 10:00:00 +0000' })]),
    });
    expect(await groups('g')).toEqual(['g2 g3 g4']);
  });

  test('subject joins only without references, with a common outsider, within 30 days, whatever the order of arrival', async () => {
    const on = (day: number): string => new Date(Date.UTC(2026, 0, day, 10)).toUTCString();
    const emails = [
      hello('h1', { subject: 'Ice', date: on(1) }),
      hello('h2', { subject: 'Re: Ice', date: on(20) }),
      hello('h3', { subject: 'Re: Ice', date: on(60) }),
      hello('h4', { subject: 'Ice', from: 'jo@elsewhere.example', date: on(21) }),
      hello('h5', { subject: 'Fwd: Ice', date: on(22) }),
    ];
    await importMail(server, crew.tokens.rep, rep, { 'late.mbox': mbox([emails[1]!, emails[3]!, emails[4]!]) });
    await importMail(server, crew.tokens.rep, rep, { 'early.mbox': mbox([emails[0]!, emails[2]!]) });
    expect(await groups('h')).toEqual(['h1 h2', 'h3', 'h4', 'h5']);
  });
});

test('deciding everything again changes nothing', async () => {
  await server.call(routeTo('putRulebook'), {
    token: crew.tokens.admin,
    body: {
      ...(await server.call(routeTo('getRulebook'), { token: crew.tokens.admin })).json.document,
      create: { people: 'contact', after: 'firstEmail', accounts: true },
    },
  });
  await decideAll(server, crew.tokens.admin);
  const created = await decisions(server, crew.tokens.admin);
  expect(created.a1.created.map((item: { kind: string }) => item.kind).length + created.h1.created.length).toBeGreaterThan(0);
  const before = await everything();
  expect(await decideAll(server, crew.tokens.admin)).toMatchObject({ state: 'done', changed: 0 });
  expect(await everything()).toBe(before);
});

test('an import that a dying server left is taken up by the next one', async () => {
  const created = await server.call(routeTo('createImport'), { token: crew.tokens.rep, body: { mailbox: rep } });
  await server.call(routeTo('putImportFile', { id: created.json.id, name: 'left.mbox' }), {
    token: crew.tokens.rep,
    bytes: mbox([hello('z1'), hello('z2')]),
  });
  // As a server leaves it that is killed in the middle: running, with no one at it.
  await owner(server.ownerUrl, `UPDATE work SET state = 'running' WHERE id = (SELECT work_id FROM imports WHERE id = $1)`, [
    created.json.id,
  ]);
  const next = await server.again();
  try {
    const { finished } = await import('../../testing/testServer');
    expect(await finished(server, crew.tokens.rep, routeTo('getImport', { id: created.json.id }))).toMatchObject({
      state: 'done',
      counts: { new: 2 },
    });
  } finally {
    await next.stop();
  }
});
