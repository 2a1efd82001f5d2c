import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { request } from 'node:http';
import type { IncomingMessage } from 'node:http';
import { setTimeout as pause } from 'node:timers/promises';
import { gzipSync } from 'node:zlib';
import type { Answer, Crew, TestServer } from '../testing/testServer';
import {
  changeRulebook,
  eml,
  finished,
  importMail,
  makeToken,
  mbox,
  owner,
  PASSWORD,
  setUpCrew,
  signIn,
  startTestServer,
} from '../testing/testServer';

let server: TestServer;
let crew: Crew;

beforeAll(async () => {
  server = await startTestServer({
    attemptLimits: { account: 10, ip: 10_000 },
    downloadLimits: { atOnce: 2, unread: 400 },
    uploadLimits: { file: 300_000, member: 400_000, workspace: 500_000 },
  });
  crew = await setUpCrew(server);
});
afterAll(() => server.remove());

const as = (who: keyof Crew['tokens'], target: Destination, body?: unknown): Promise<Answer> =>
  server.call(target, { token: crew.tokens[who], body });
const code = (answer: Answer): string => (answer.status === 200 ? 'ok' : answer.json.error.code);

describe('the body of a request', () => {
  test('is small where anyone may call', async () => {
    const body = { email: 'rep@quillmere.example', password: 'x'.repeat(20_000) };
    expect(code(await server.call(routeTo('signIn'), { body }))).toBe('too-large');
  });

  test('is not read before it is known that the caller may', async () => {
    const large = JSON.stringify({ text: 'x'.repeat(3_000_000) });
    const send = (token?: string) =>
      server.call(routeTo('importRecords', { kind: 'contact' }), {
        bytes: large,
        headers: { 'content-type': 'application/json' },
        ...(token ? { token } : {}),
      });
    expect(code(await send())).toBe('not-signed-in');
    expect(code(await send(crew.tokens.viewer))).toBe('not-allowed');
    expect(code(await send('fulvet_made_up'))).toBe('bad-token');
  });

  test('has its faults named, and not more than can be read', async () => {
    const body = { emails: Array.from({ length: 100 }, () => 'x'), seal: true };
    const answer = await as('rep', routeTo('repair'), body);
    expect(answer.status).toBe(422);
    expect(Object.keys(answer.json.error.fields)).toHaveLength(20);
    expect(answer.text.length).toBeLessThan(5_000);
  });

  test('with a rule whose pattern costs too much is refused in words', async () => {
    const put = await changeRulebook(server, crew.tokens.admin, (rulebook) => {
      rulebook.takeIn.rules = [
        {
          id: 'r',
          name: 'Costly',
          note: '',
          on: true,
          when: { fact: 'subject', test: { pattern: '(o|e).{30}z' } },
          then: { do: 'takeIn' },
        },
      ] as never;
    });
    expect([put.status, put.json.error.code]).toEqual([422, 'bad-rulebook']);
    expect(put.json.error.message).toContain('costs too much');
  });

  test('is refused in words when it is odd', async () => {
    const odd = ['null', '7', '"x"', '[]', '{"__proto__": {"role": "admin"}}', '{', `${'['.repeat(5_000)}${']'.repeat(5_000)}`];
    for (const bytes of odd) {
      const answer = await server.call(routeTo('repair'), {
        token: crew.tokens.rep,
        bytes,
        headers: { 'content-type': 'application/json' },
      });
      expect({ bytes, status: answer.status < 500 && answer.status >= 400 }).toEqual({ bytes, status: true });
    }
    for (const target of [
      routeTo('listEmails', { text: 'a\0b' }),
      routeTo('listRecords', { kind: 'contact', text: '\0' }),
      routeTo('search', { text: '\0' }),
      routeTo('getDomainHistory', { domain: 'x\0.example' }),
      routeTo('getEmail', { id: '1\0' }),
    ])
      expect({ target, status: (await as('admin', target)).status }).toEqual({ target, status: 422 });
  });
});

describe('attempts to get in', () => {
  const wrong = (email: string, at: Pick<TestServer, 'call'> = server) =>
    at.call(routeTo('signIn'), { body: { email, password: 'not this password' } });

  test('count together however an address is written, and from every process', async () => {
    const other = await server.again();
    const there = { call: (target: Destination, options?: object) => callAt(other.url, target, options) };
    const spellings = [
      'manager@quillmere.example',
      'MANAGER@Quillmere.Example',
      ' manager@quillmere.example ',
      'manager@QUILLMERE.example',
      'ｍanager@quillmere.example',
    ];
    const answers: string[] = [];
    for (let at = 0; at < 12; at += 1) answers.push(code(await wrong(spellings[at % spellings.length] ?? '', at % 2 ? there : server)));
    await other.stop();
    expect(answers).toEqual([...Array<string>(10).fill('wrong-sign-in'), 'too-many-attempts', 'too-many-attempts']);
    expect((await signIn(server, 'manager@quillmere.example')).status).toBe(429);
  });

  test('are counted before they are tried, so that many at once are no more', async () => {
    const answers = await Promise.all(Array.from({ length: 40 }, () => wrong('viewer@quillmere.example')));
    expect(answers.filter((answer) => code(answer) === 'wrong-sign-in')).toHaveLength(10);
  });

  test('do not count when they are right', async () => {
    for (let at = 0; at < 15; at += 1) expect((await signIn(server, 'rep@quillmere.example')).status).toBe(200);
  });

  test('end for the password within a session, too', async () => {
    const { cookie, csrf } = await signIn(server, 'other@quillmere.example');
    const change = (current: string) =>
      server.call(routeTo('changeOwnPassword'), {
        body: { current, password: 'a fine new password' },
        headers: { cookie, 'x-fulvet-csrf': csrf },
      });
    const answers: string[] = [];
    for (let at = 0; at < 11; at += 1) answers.push(code(await change(`wrong ${at}`)));
    expect(answers.at(-1)).toBe('too-many-attempts');
    expect(code(await change(PASSWORD))).toBe('too-many-attempts');
  });

  test('of one IP address end for all accounts', async () => {
    const strict = await startTestServer({ attemptLimits: { account: 10, ip: 12 } });
    await setUpCrew(strict);
    const answers: string[] = [];
    for (let at = 0; at < 13; at += 1) answers.push(code(await wrong(`nobody${at}@elsewhere.example`, strict)));
    await strict.remove();
    expect(answers.slice(-2)).toEqual(['wrong-sign-in', 'too-many-attempts']);
  });
});

describe('passwords', () => {
  test.each([
    ['viewer@quillmere.example', 'own address'],
    ['viewer-person', 'own address or name'],
    ['Viewerquillmere', 'own address'],
    ['1234567890', 'attackers'],
    ['qwertyuiop', 'attackers'],
    ['aaaaaaaaaaaa', 'attackers'],
    ['short', 'at least 10'],
  ])('%s is refused with its reason', async (password, because) => {
    const answer = await as('admin', routeTo('setPassword', { id: crew.ids.viewer }), { password });
    expect({ status: answer.status, text: answer.text }).toEqual({ status: 422, text: expect.stringContaining(because) });
  });

  test('set by an administrator end sessions and tokens; their own they change with the present one', async () => {
    const made = await makeToken(server, 'rep@quillmere.example');
    const { cookie } = await signIn(server, 'rep@quillmere.example');
    expect((await as('admin', routeTo('setPassword', { id: crew.ids.rep }), { password: PASSWORD })).status).toBe(200);
    expect(code(await server.call(routeTo('listEmails'), { token: made.json.token }))).toBe('bad-token');
    expect((await server.call(routeTo('listEmails'), { headers: { cookie } })).status).toBe(401);
    crew.tokens.rep = (await makeToken(server, 'rep@quillmere.example')).json.token;
    expect(code(await as('admin', routeTo('setPassword', { id: crew.ids.admin }), { password: 'a fine new password' }))).toBe(
      'own-password',
    );
  });
});

describe('access tokens', () => {
  test('are not created by tokens, not without the password, and never with more than their member may', async () => {
    expect(code(await as('admin', routeTo('createToken'), { name: 'x', scopes: ['read'], password: PASSWORD }))).toBe('not-by-token');
    expect(code(await makeToken(server, 'rep@quillmere.example', { password: 'not this password' }))).toBe('wrong-password');
    expect(code(await makeToken(server, 'rep@quillmere.example', { scopes: ['read', 'admin'] }))).toBe('token-scope');
    expect(code(await makeToken(server, 'rep@quillmere.example', { scopes: ['read'] }))).toBe('ok');
  });
});

describe('downloads', () => {
  /** Asks for an export and does not read it. */
  function unread(): Promise<IncomingMessage> {
    return new Promise((resolve, reject) => {
      const asked = request(`${server.url}/api/v1/export/mail`, { headers: { authorization: `Bearer ${crew.tokens.rep}` } }, (answer) => {
        answer.pause();
        answer.on('error', () => undefined);
        resolve(answer);
      });
      asked.on('error', reject);
      asked.end();
    });
  }

  beforeAll(async () => {
    const large = Array.from({ length: 40 }, (_, at): [string, Buffer] => [
      `large${at}.eml.gz`,
      gzipSync(eml({ id: `large${at}`, from: 'Ida <ida@harbour.example>', to: 'rep@quillmere.example', text: 'tide '.repeat(60_000) })),
    ]);
    await importMail(server, crew.tokens.rep, 'rep@quillmere.example', Object.fromEntries(large));
  }, 120_000);

  test('that no one reads hold up no one, are few at once, and end by themselves', async () => {
    const held = [await unread(), await unread()];
    expect(held.map((answer) => answer.statusCode)).toEqual([200, 200]);
    expect(code(await as('rep', routeTo('exportMail')))).toBe('too-many-downloads');
    expect((await as('admin', routeTo('listEmails'))).status).toBe(200);
    const [row] = await owner(
      server.ownerUrl,
      `SELECT count(*)::int AS open FROM pg_stat_activity WHERE datname = current_database() AND state LIKE 'idle in transaction%'`,
    );
    expect(row?.open).toBe(0);
    for (;;) {
      const again = await as('rep', routeTo('exportDecisions'));
      if (again.status === 200) break;
      await pause(100);
    }
    for (const answer of held) answer.destroy();
  });
});

describe('files of an import', () => {
  test('are taken up to a limit of the member and of the workspace', async () => {
    const open = async (who: 'rep' | 'other'): Promise<number> =>
      (await as(who, routeTo('createImport'), { mailbox: `${who}@quillmere.example` })).json.id;
    const put = async (who: 'rep' | 'other', id: number, size: number): Promise<string> =>
      code(await server.call(routeTo('putImportFile', { id, name: 'a' }), { token: crew.tokens[who], bytes: 'x'.repeat(size) }));
    const [mine, theirs] = [await open('rep'), await open('other')];
    expect(await put('rep', mine, 300_001)).toBe('too-large');
    expect(await put('rep', mine, 290_000)).toBe('ok');
    expect(await put('rep', mine, 200_000)).toBe('too-large');
    expect(await put('other', theirs, 290_000)).toBe('too-large');
    for (const [who, id] of [
      ['rep', mine],
      ['other', theirs],
    ] as const)
      await as(who, routeTo('cancelImport', { id }));
    expect(await put('rep', await open('rep'), 290_000)).toBe('ok');
  });

  test('are unpacked twice and not more often', async () => {
    const mail = mbox([{ id: 'deep', from: 'Ida <ida@harbour.example>', to: 'rep@quillmere.example' }]);
    const run = await importMail(server, crew.tokens.other, 'other@quillmere.example', { 'a.gz': gzipSync(gzipSync(gzipSync(mail))) });
    expect(run).toMatchObject({ state: 'done', counts: { new: 0, unreadable: 1 } });
    const { items } = (await as('other', routeTo('listImportItems', { id: run.id }))).json;
    expect(items[0].problems[0].message).toContain('compressed more than 2 times');
  });

  test('at which the server ended twice are given up in words', async () => {
    const created = await as('other', routeTo('createImport'), { mailbox: 'other@quillmere.example' });
    await server.call(routeTo('putImportFile', { id: created.json.id, name: 'a' }), { token: crew.tokens.other, bytes: 'Subject: x\n\nx' });
    await owner(
      server.ownerUrl,
      `UPDATE work SET state = 'running', interruptions = 1 WHERE id = (SELECT work_id FROM imports WHERE id = $1)`,
      [created.json.id],
    );
    const again = await server.again();
    const run = await finished(server, crew.tokens.other, routeTo('getImport', { id: created.json.id }));
    await again.stop();
    expect(run).toMatchObject({ state: 'failed', message: expect.stringContaining('ended twice') });
  });
});

async function callAt(url: string, { method, path }: Destination, options: { body?: unknown } = {}): Promise<Answer> {
  const response = await fetch(`${url}/api/v1${path}`, {
    method,
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(options.body),
  });
  const text = await response.text();
  return { status: response.status, headers: response.headers, text, json: JSON.parse(text) as unknown };
}
