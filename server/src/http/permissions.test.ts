import { routeTo } from '../testing/routeTo';
import type { RouteShape } from '@fulvet/contract';
import { ROLES, routes } from '@fulvet/contract';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Crew, TestServer } from '../testing/testServer';
import { importMail, mbox, owner, PASSWORD, setUpCrew, signIn, startTestServer, makeToken } from '../testing/testServer';

let server: TestServer;
let crew: Crew;
let mine: number;

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const emails = [
    {
      id: 'private@x',
      from: 'ida@harbour.example',
      to: 'rep@quillmere.example',
      subject: 'For the rep alone',
      text: 'a secret about barnacles',
    },
  ];
  await importMail(server, crew.tokens.admin, 'rep@quillmere.example', { 'rep.mbox': mbox(emails) });
  mine = (await server.call(routeTo('listEmails'), { token: crew.tokens.rep })).json.emails[0].id;
});
afterAll(() => server.remove());

const all = Object.entries(routes) as [string, RouteShape][];
const pathOf = (route: RouteShape): string => route.path.replace('{kind}', 'contact').replace(/\{\w+\}/g, '999999');

describe('every route asks for its roles', () => {
  test.each(all)('%s', async (_, route) => {
    const statusFor = async (token?: string): Promise<number> => {
      const hasBody = route.body !== undefined && route.body !== 'bytes';
      const response = await fetch(`${server.url}/api/v1${pathOf(route)}`, {
        method: route.method.toUpperCase(),
        headers: { ...(token ? { authorization: `Bearer ${token}` } : {}), ...(hasBody ? { 'content-type': 'application/json' } : {}) },
        redirect: 'manual',
        ...(hasBody ? { body: '{}' } : {}),
      });
      // A stream of events has no end to wait for.
      await response.body?.cancel();
      return response.status;
    };
    if (route.access === 'public') {
      expect(await statusFor()).not.toBe(403);
      return;
    }
    expect(await statusFor()).toBe(401);
    for (const role of ROLES) {
      const status = await statusFor(crew.tokens[role]);
      // The token of the set-up is not for sending.
      if (route.sends && role === 'admin') expect(status).toBe(403);
      else if (route.access.includes(role)) expect([401, 403]).not.toContain(status);
      else expect(status).toBe(403);
    }
  });

  test('a revoked or made-up token is refused', async () => {
    expect((await server.call(routeTo('listEmails'), { token: 'fulvet_made_up' })).json.error.code).toBe('bad-token');
    const made = await makeToken(server, 'rep@quillmere.example');
    expect((await server.call(routeTo('listEmails'), { token: made.json.token })).status).toBe(200);
    await server.call(routeTo('revokeToken', { id: made.json.entry.id }), { token: crew.tokens.rep });
    expect((await server.call(routeTo('listEmails'), { token: made.json.token })).status).toBe(401);
  });

  test('no one revokes another’s token', async () => {
    const made = await makeToken(server, 'rep@quillmere.example');
    expect((await server.call(routeTo('revokeToken', { id: made.json.entry.id }), { token: crew.tokens.admin })).status).toBe(404);
  });
});

describe('what is not shared', () => {
  test.each(['manager', 'other', 'viewer'] as const)('is not there for a %s, by any way out', async (who) => {
    const token = crew.tokens[who];
    expect((await server.call(routeTo('listEmails'), { token })).json.total).toBe(0);
    expect((await server.call(routeTo('search', { text: 'barnacles' }), { token })).json).toMatchObject({ emails: [], emailTotal: 0 });
    for (const route of ['getEmail', 'getEmailHtml', 'getEmailSource'] as const)
      expect((await server.call(routeTo(route, { id: mine }), { token })).status).toBe(404);
    expect((await server.call(routeTo('getAttachment', { id: mine, position: 0 }), { token })).status).toBe(404);
    expect((await server.call(routeTo('exportMail'), { token })).text).toBe('');
    expect((await server.call(routeTo('exportDecisions'), { token })).text).toBe('');
    expect((await server.call(routeTo('listEmails', { person: 'ida@harbour.example' }), { token })).json.total).toBe(0);
  });

  test('is known to an administrator as decided, not by what it says', async () => {
    const { token } = { token: crew.tokens.admin };
    const [row] = (await server.call(routeTo('listEmails'), { token })).json.emails;
    expect(row).toMatchObject({ id: mine, content: null, externalDomains: ['harbour.example'] });
    const { text } = await server.call(routeTo('getEmail', { id: mine }), { token });
    expect(text).not.toMatch(/secret|alone|ida@/);
    expect((await server.call(routeTo('search', { text: 'barnacles' }), { token })).json.emailTotal).toBe(0);
    expect((await server.call(routeTo('getEmailSource', { id: mine }), { token })).status).toBe(404);
    expect((await server.call(routeTo('exportMail'), { token })).text).toBe('');
  });

  test('is all there for its owner', async () => {
    const { token } = { token: crew.tokens.rep };
    expect((await server.call(routeTo('getEmail', { id: mine }), { token })).json.content.subject).toBe('For the rep alone');
    expect((await server.call(routeTo('search', { text: 'barnacles' }), { token })).json.emailTotal).toBe(1);
    expect((await server.call(routeTo('exportMail'), { token })).text).toContain('a secret about barnacles');
  });
});

describe('the database itself', () => {
  test('holds every table with mail or records under row security', async () => {
    const open = await owner(
      server.ownerUrl,
      `SELECT relname FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE n.nspname = 'public' AND relkind = 'r' AND NOT relrowsecurity ORDER BY 1`,
    );
    expect(open.map((row) => row.relname)).toEqual(['access_tokens', 'session', 'users', 'workspace']);
  });

  test('has one view over emails, which lets no condition be asked before its own and names nothing that is said', async () => {
    const views = await owner(
      server.ownerUrl,
      `SELECT relname, reloptions, array_agg(attname::text ORDER BY attnum) AS columns FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace JOIN pg_attribute a ON a.attrelid = c.oid AND attnum > 0 WHERE n.nspname = 'public' AND relkind IN ('v', 'm') GROUP BY 1, 2 ORDER BY 1`,
    );
    expect(views).toEqual([
      { relname: 'fulvet_readable', reloptions: ['security_barrier=true'], columns: ['id', 'blob', 'outcome'] },
      // The other shows each member what the tables behind it do.
      { relname: 'records', reloptions: ['security_invoker=true'], columns: ['kind', 'id', 'name', 'owner_id'] },
    ]);
    expect((await server.services.database.appPool.query('SELECT FROM fulvet_readable')).rowCount).toBe(0);
  });

  test('lets neither role pass by it', async () => {
    const roles = await owner(
      server.ownerUrl,
      `SELECT rolname, rolsuper, rolbypassrls FROM pg_roles WHERE rolname IN ('fulvet_app', 'fulvet_worker')`,
    );
    expect(roles).toHaveLength(2);
    for (const role of roles) expect(role).toMatchObject({ rolsuper: false, rolbypassrls: false });
  });

  test('shows the application nothing without an acting user', async () => {
    for (const table of ['emails', 'email_contents', 'participants', 'filings', 'contacts', 'accounts', 'imports']) {
      expect((await server.services.database.appPool.query(`SELECT FROM ${table}`)).rowCount).toBe(0);
    }
  });

  test('does not let the application write mail', async () => {
    await expect(server.services.database.appPool.query(`UPDATE emails SET visibility = 'everyone'`)).rejects.toThrow('permission denied');
  });
});

describe('sessions', () => {
  test('the cookie is closed to scripts and other sites, and no page is taken from a cache', async () => {
    const answer = await server.call(routeTo('signIn'), { body: { email: 'rep@quillmere.example', password: PASSWORD } });
    expect(answer.headers.get('set-cookie')).toMatch(/HttpOnly.*SameSite=Lax/);
    expect(answer.headers.get('cache-control')).toBe('no-store');
    expect(answer.headers.get('content-security-policy')).toMatch(/script-src 'self';/);
  });

  test('a change by cookie needs the session’s secret, and our own origin', async () => {
    const { cookie, csrf } = await signIn(server, 'rep@quillmere.example');
    const make = (headers: Record<string, string>) =>
      server.call(routeTo('createToken'), { body: { name: 'x', scopes: ['read'], password: PASSWORD }, headers: { cookie, ...headers } });
    expect((await make({})).json.error.code).toBe('no-csrf');
    expect((await make({ 'x-fulvet-csrf': `${csrf}x` })).status).toBe(403);
    expect((await make({ 'x-fulvet-csrf': csrf, origin: 'https://elsewhere.example' })).json.error.code).toBe('other-origin');
    expect((await make({ 'x-fulvet-csrf': csrf, origin: server.url })).status).toBe(200);
  });

  test('a wrong password and an unknown address are told apart by nothing', async () => {
    const wrong = await server.call(routeTo('signIn'), { body: { email: 'manager@quillmere.example', password: 'not this one' } });
    const unknown = await server.call(routeTo('signIn'), { body: { email: 'nobody@quillmere.example', password: 'not this one' } });
    expect([wrong.status, wrong.text]).toEqual([unknown.status, unknown.text]);
  });

  test('ten failures in a row end the attempts for that address', async () => {
    for (let at = 0; at < 10; at += 1) await signIn(server, 'viewer@quillmere.example', 'wrong wrong wrong');
    expect((await signIn(server, 'viewer@quillmere.example')).status).toBe(429);
    expect((await signIn(server, 'other@quillmere.example')).status).toBe(200);
  });

  test('passwords and tokens are stored as hashes only', async () => {
    const [user] = await owner(server.ownerUrl, `SELECT password_hash FROM users WHERE email = 'rep@quillmere.example'`);
    expect(user?.password_hash).toMatch(/^\$argon2id\$/);
    const tokens = await owner(server.ownerUrl, 'SELECT token_hash FROM access_tokens');
    expect(tokens.some((row) => String(row.token_hash).includes('fulvet_'))).toBe(false);
  });
});

test('set-up is done once', async () => {
  const again = await server.call(routeTo('setUp'), {
    body: { admin: { email: 'evil@x.example', name: 'E', password: PASSWORD }, ownDomains: ['x.example'] },
  });
  expect([again.status, again.json.error.code]).toEqual([409, 'set-up-already']);
});

test('the OpenAPI document describes every route', async () => {
  const { json } = await server.call(routeTo('openApi'));
  expect(json.openapi).toBe('3.1.0');
  const described = Object.values(json.paths as Record<string, Record<string, { operationId: string }>>).flatMap((path) =>
    Object.values(path).map((value) => value.operationId),
  );
  expect(described.sort()).toEqual(Object.keys(routes).sort());
});
