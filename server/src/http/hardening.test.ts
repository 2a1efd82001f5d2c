import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import type { RouteShape } from '@fulvet/contract';
import { routes } from '@fulvet/contract';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { z } from 'zod';
import type { Answer, Crew, TestServer } from '../testing/testServer';
import { changeRulebook, importMail, mbox, owner, PASSWORD, setUpCrew, signIn, startTestServer, makeToken } from '../testing/testServer';

type Who = keyof Crew['tokens'];
let server: TestServer;
let crew: Crew;
const as = (who: Who) => (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens[who], body });
const made: Record<string, number> = {};
const all = Object.values(routes) as RouteShape[];

/** What the rep has, each with its own id; nothing of it is anyone else's. */
beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const rep = as('rep');
  const imported = await importMail(server, crew.tokens.rep, 'rep@quillmere.example', {
    'rep.mbox': mbox([
      { id: 'one', from: 'Ida <ida@harbour.example>', to: 'rep@quillmere.example', subject: '=cmd|calc', text: 'secret of the rep' },
    ]),
  });
  const call = async (table: string): Promise<number> =>
    Number((await owner(server.ownerUrl, `SELECT max(id) AS id FROM ${table}`))[0]?.id);
  made.emails = await call('emails');
  made.imports = imported.id;
  made.mailboxes = await call('mailboxes');
  made['sharing-choices'] = (
    await rep(routeTo('addSharingChoice'), { does: 'share', scope: 'email', emailId: made.emails, level: 'owner' })
  ).json.id;
  made['keep-outs'] = (await rep(routeTo('addOwnKeepOut'), { kind: 'domain', value: 'school.example' })).json.id;
  made.grants = (await rep(routeTo('addGrants'), { scope: 'email', emailId: made.emails, to: [crew.ids.viewer] })).json.grants[0].id;
  await as('admin')(routeTo('askAccess'), { scope: 'email', emailId: made.emails });
  made.requests = await call('access_requests');
  made.repairs = (await rep(routeTo('repair'), { emails: [made.emails], settle: true })).json.id;
  made.undo = (await rep(routeTo('createRecord', { kind: 'contact' }), { values: { name: 'Their Own' } })).json.undo;
  made.tokens = (await makeToken(server, 'rep@quillmere.example')).json.entry.id;
  made['record-views'] =
    (await rep(routeTo('keepView'), { kind: 'deal', name: 'Mine', query: 'a=b', shared: false })).json.id ?? (await call('record_views'));
  await owner(server.ownerUrl, `INSERT INTO outgoing (writer_id, mailbox_id, kind) VALUES ($1, $2, 'new')`, [crew.ids.rep, made.mailboxes]);
  made.templates = (await rep(routeTo('createTemplate'), { kind: 'template', name: 'Mine' })).json.id;
  made.outgoing = await call('outgoing');
  made.series = (await rep(routeTo('createSeries'), { name: 'Mine', steps: [{ kind: 'task', waitDays: 0, text: 'Call' }] })).json.id;
  await owner(
    server.ownerUrl,
    `INSERT INTO series_runs (series_id, series_name, writer_id, mailbox_id, address, zone, steps, due_at, look_at, state) VALUES ($1, 'Mine', $2, $3, 'ida@harbour.example', 'UTC', '[]', now(), now(), 'ended')`,
    [made.series, crew.ids.rep, made.mailboxes],
  );
  made.runs = await call('series_runs');
  await owner(server.ownerUrl, `INSERT INTO bulk_sends (writer_id, name, total, left_out) VALUES ($1, 'Mine', 1, '{}')`, [crew.ids.rep]);
  made.bulk = await call('bulk_sends');
  made.documents = (await rep(routeTo('createDocument'), { title: 'Mine' })).json.id;
  await owner(
    server.ownerUrl,
    `INSERT INTO document_versions (document_id, number, name, type, size, added_by) VALUES ($1, 1, 'x', 'x', 1, $2)`,
    [made.documents, crew.ids.rep],
  );
  await owner(
    server.ownerUrl,
    `INSERT INTO document_links (token_hash, version_id, writer_id, ends_at) SELECT 'x', max(id), $1, now() + interval '1 day' FROM document_versions`,
    [crew.ids.rep],
  );
  made['document-links'] = await call('document_links');
  await owner(server.ownerUrl, `INSERT INTO activities (kind, at, text, is_private, writer_id) VALUES ('note', now(), 'Mine', true, $1)`, [
    crew.ids.rep,
  ]);
  made.activities = await call('activities');
  await owner(server.ownerUrl, `INSERT INTO calendars (mailbox_id, kind, url, name) VALUES ($1, 'subscribed', 'x', 'Mine')`, [
    made.mailboxes,
  ]);
  made.calendars = await call('calendars');
  made['meeting-kinds'] = (
    await rep(routeTo('createMeetingKind'), {
      name: 'Mine',
      minutes: 30,
      days: [1],
      from: '09:00',
      to: '10:00',
      zone: 'UTC',
      memberIds: [crew.ids.rep],
    })
  ).json.id;
  await owner(server.ownerUrl, `INSERT INTO booking_links (token_hash, kind_id, maker_id, ends_at) VALUES ('x', $1, $2, now())`, [
    made['meeting-kinds'],
    crew.ids.rep,
  ]);
  await owner(
    server.ownerUrl,
    `INSERT INTO bookings (link_id, kind_id, uid, host_id, member_ids, guest_address, guest_name, zone, starts_at, ends_at) SELECT id, kind_id, 'x', maker_id, ARRAY[maker_id], 'ida@harbour.example', 'Ida', 'UTC', now() + interval '1 day', now() + interval '1 day' FROM booking_links`,
  );
  made.bookings = await call('bookings');
  made.tasks = (await rep(routeTo('createTask'), { text: 'Mine' })).json.id;
  made.emergencies = (
    await as('admin')(routeTo('askEmergency'), { ownerId: crew.ids.rep, reason: 'long enough a reason', hours: 1 })
  ).json.id;
}, 60_000);
afterAll(() => server.remove());

/** Routes with an id that lead to what all members share, or to what row security narrows by itself; each was thought about. */
const SHARED =
  /^\/(records|deals|duplicates|merge|merges|domains|record-setup|team\/\{id\}\/sight|emergencies\/\{id\}\/confirm|mailboxes\/\{id\}$|me\/sessions)/;

describe('the id of someone else’s', () => {
  const withId = all.filter((route) => /\{/.test(route.path) && route.access !== 'public' && route.access.includes('rep'));
  const own = withId.filter((route) => !SHARED.test(route.path));

  test('is thought of wherever a route takes an id', () => {
    const kinds = new Set(own.map((route) => route.path.split('{')[0]?.split('/').filter(Boolean).at(-1)));
    expect([...kinds].filter((kind) => made[kind ?? ''] === undefined)).toEqual([]);
    expect(own.length).toBeGreaterThan(30);
  });

  test.each(own.map((route) => [route.method, route.path] as const))('opens nothing: %s %s', async (method, path) => {
    const kind = path.split('{')[0]?.split('/').filter(Boolean).at(-1) ?? '';
    const real = path.replace(/\{\w+\}/, String(made[kind])).replace(/\{\w+\}/g, '0');
    const before = await owner(
      server.ownerUrl,
      `SELECT (SELECT count(*) FROM sharing_choices WHERE withdrawn_at IS NULL) + (SELECT count(*) FROM grants WHERE withdrawn_at IS NULL) + (SELECT count(*) FROM own_keep_outs) + (SELECT count(*) FROM access_tokens WHERE revoked_at IS NULL) + (SELECT count(*) FROM record_views) AS n`,
    );
    const body = { answer: 'asked', password: 'x', userIds: [crew.ids.other], from: 'name' };
    const answer = await server.call(
      { method: method.toUpperCase(), path: real },
      {
        token: crew.tokens.other,
        ...(method === 'get' || method === 'delete' ? {} : /\/(files|versions)$/.test(path) ? { bytes: 'x' } : { body }),
      },
    );
    // 422: the body is looked at before whose it is; nothing is told by that.
    expect([403, 404, 409, 422]).toContain(answer.status);
    expect(answer.text).not.toMatch(/secret of the rep|ida@harbour/);
    const after = await owner(
      server.ownerUrl,
      `SELECT (SELECT count(*) FROM sharing_choices WHERE withdrawn_at IS NULL) + (SELECT count(*) FROM grants WHERE withdrawn_at IS NULL) + (SELECT count(*) FROM own_keep_outs) + (SELECT count(*) FROM access_tokens WHERE revoked_at IS NULL) + (SELECT count(*) FROM record_views) AS n`,
    );
    expect(after).toEqual(before);
  });
});

describe('more than was asked for', () => {
  test('is refused: no route takes fields that it does not know', () => {
    const loose = Object.entries(routes as Record<string, RouteShape>).filter(([, route]) => {
      if (route.body === undefined || route.body === 'bytes') return false;
      const shape = z.toJSONSchema(route.body, { io: 'input', unrepresentable: 'any' }) as {
        type?: string;
        additionalProperties?: unknown;
      };
      return shape.type === 'object' && shape.additionalProperties !== false;
    });
    // A rulebook is checked by its own schema, which knows all of its fields.
    expect(loose.map(([id]) => id).filter((id) => !['putRulebook', 'putDraft'].includes(id))).toEqual([]);
  });

  test.each([
    ['changeOwnPassword', { current: PASSWORD, password: 'another long one', role: 'admin' }],
    ['createToken', { name: 'x', userId: 1 }],
    ['addGrants', { scope: 'email', emailId: 1, to: [1], byUserId: 1 }],
  ] as const)('%s with a field of others', async (route, body) => {
    expect((await as('rep')(routeTo(route), body)).status).toBe(422);
  });
});

describe('what comes in from outside', () => {
  test('a file’s name never leads out of the folder of uploads', async () => {
    const { json } = await as('rep')(routeTo('createImport'), { mailbox: 'rep@quillmere.example' });
    for (const name of ['../../evil.mbox', '/etc/evil.mbox', '..\\evil.mbox', 'a\u0000b.mbox'])
      await server.call(routeTo('putImportFile', { id: json.id, name }), { token: crew.tokens.rep, bytes: 'x' });
    const stored = await readdir(join(server.dataFolder, 'uploads', String(json.id)));
    expect(stored.every((value) => /^\w+$/.test(value))).toBe(true);
    expect(await readdir(server.dataFolder)).not.toContain('evil.mbox');
  });

  test('a cell that a spreadsheet would run is guarded', async () => {
    await as('admin')(routeTo('importRecords', { kind: 'account' }), {
      text: 'name,domains\n"=HYPERLINK(""http://evil.example"")",evil.example\n+1-2,plus.example\n@SUM(1),at.example\n',
    });
    const { text } = await as('admin')(routeTo('exportRecords', { kind: 'account' }));
    for (const line of text.split('\n')) expect(line).not.toMatch(/(^|,)"?[=+@-]/);
  });

  test('a pattern that would take a backtracking engine for ever is answered', async () => {
    const put = await changeRulebook(server, crew.tokens.admin, (rulebook) => {
      rulebook.keepOut.rules = [
        {
          id: 'slow',
          name: 'slow',
          note: '',
          on: true,
          appliesTo: { mailboxes: [], users: [] },
          when: { all: [{ fact: 'subject', test: { pattern: '^(a+)+$' } }] },
          then: { do: 'keepOut' },
        },
      ] as never;
    });
    expect(put.status).toBe(200);
    const done = await importMail(server, crew.tokens.admin, 'rep@quillmere.example', {
      'slow.mbox': mbox([{ id: 'slow', from: 'ida@harbour.example', to: 'rep@quillmere.example', subject: `${'a'.repeat(5000)}!` }]),
    });
    expect([done.state, done.counts.new]).toEqual(['done', 1]);
  });

  test('words of a search, and cursors, are never taken for SQL or for a pattern of its own', async () => {
    for (const target of [
      routeTo('search', { text: `' OR 1=1 --` }),
      routeTo('search', { text: '"unclosed & | ! (' }),
      routeTo('listRecords', { kind: 'contact', text: `%_\\';DROP` }),
      { method: 'GET', path: '/audit?after=1-1%27' },
      { method: 'GET', path: '/emails?after=garbage' },
    ])
      expect([200, 422]).toContain((await as('other')(target)).status);
    expect((await owner(server.ownerUrl, 'SELECT count(*)::int AS n FROM users'))[0]?.n).toBe(5);
  });
});

describe('who is nobody', () => {
  test('learns from no error whether something is there', async () => {
    const [there, not] = [
      await as('other')(routeTo('getEmail', { id: made.emails ?? 0 })),
      await as('other')(routeTo('getEmail', { id: 987654 })),
    ];
    expect([there.status, there.text]).toEqual([not.status, not.text]);
    const [word, none] = [
      await as('other')(routeTo('removeSharingChoice', { id: made['sharing-choices'] ?? 0 })),
      await as('other')(routeTo('removeSharingChoice', { id: 987654 })),
    ];
    expect([word.status, word.text]).toEqual([none.status, none.text]);
    const answers: Answer[] = [];
    for (const token of ['x', 'y'.repeat(43)]) answers.push(await server.call(routeTo('getInvitation', { token })));
    expect(answers[0]?.text).toBe(answers[1]?.text);
  });

  test('meets headers that keep pages to themselves', async () => {
    const { headers } = await server.call(routeTo('getSession'));
    expect(headers.get('x-content-type-options')).toBe('nosniff');
    expect(headers.get('x-frame-options')).toBe('SAMEORIGIN');
    expect(headers.get('referrer-policy')).toBe('no-referrer');
    expect(headers.get('content-security-policy')).toMatch(/default-src 'none'.*frame-ancestors 'none'/);
    expect(headers.get('x-powered-by')).toBeNull();
    const { cookie } = await signIn(server, 'manager@quillmere.example');
    const cross = await server.call(routeTo('askAccess'), {
      headers: { cookie, origin: 'https://evil.example' },
      body: { scope: 'email', emailId: 1 },
    });
    expect(cross.json.error.code).toBe('other-origin');
  });
});
