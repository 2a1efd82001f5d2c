import { routeTo } from '../../testing/routeTo';
import type { Destination } from '../../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { CLIENT, startMailhost } from '@fulvet/mailhost';
import type { Mailhost } from '@fulvet/mailhost';
import type { Answer, Crew, TestServer } from '../../testing/testServer';
import { importMail, mbox, owner, PASSWORD, setUpCrew, signIn, startTestServer, makeToken } from '../../testing/testServer';
import { codeAt } from './secondFactor';

type Who = keyof Crew['tokens'];
let server: TestServer;
let crew: Crew;
let provider: Mailhost;
const as = (who: Who) => (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens[who], body });
const good = (answer: Answer): Answer['json'] => {
  expect([answer.status, answer.text.slice(0, 300)]).toEqual([200, expect.anything()]);
  return answer.json;
};

beforeAll(async () => {
  server = await startTestServer({ privateHosts: true, attemptLimits: { account: 200, ip: 10_000 } });
  crew = await setUpCrew(server);
  provider = await startMailhost();
  provider.store.addAccount('rep@quillmere.example', 'at the provider');
  provider.store.addAccount('stranger@elsewhere.example', 'at the provider');
}, 60_000);
afterAll(async () => {
  await provider.stop();
  await server.remove();
});

/** A browser that keeps its cookie and the session's secret. */
class Visitor {
  cookie = '';
  csrf = '';

  async call(target: Destination, body?: unknown): Promise<Answer> {
    const answer = await server.call(target, {
      ...(body === undefined ? {} : { body }),
      headers: { cookie: this.cookie, 'x-fulvet-csrf': this.csrf, 'user-agent': 'Test browser' },
    });
    const set = answer.headers.get('set-cookie')?.split(';')[0];
    if (set) this.cookie = set;
    if (answer.json?.csrf) this.csrf = answer.json.csrf;
    return answer;
  }

  signIn(email: string, password = PASSWORD): Promise<Answer> {
    return this.call(routeTo('signIn'), { email, password });
  }
}

describe('a second factor', () => {
  test('is set up with a code, then asked for at sign-in; no code is good twice; a recovery code is good once', async () => {
    const me = new Visitor();
    good(await me.signIn('manager@quillmere.example'));
    expect((await me.call(routeTo('beginSecondFactor'), { password: 'not mine' })).json.error.code).toBe('wrong-password');
    const { key, uri } = good(await me.call(routeTo('beginSecondFactor'), { password: PASSWORD }));
    expect(uri).toContain('otpauth://totp/Fulvet:manager%40quillmere.example');
    expect((await me.call(routeTo('confirmSecondFactor'), { code: '000000' })).json.error.code).toBe('wrong-code');
    // Both are good from now on for half a minute, whenever the current one ends.
    const at = Date.now();
    const [first, second] = [codeAt(key, at), codeAt(key, at + 30_000)];
    const { recoveryCodes } = good(await me.call(routeTo('confirmSecondFactor'), { code: first }));
    expect(recoveryCodes).toHaveLength(10);
    // Stored sealed, and as hashes.
    const [kept] = await owner(server.ownerUrl, 'SELECT sealed_key, recovery_hashes::text AS hashes FROM user_secrets');
    expect(JSON.stringify(kept)).not.toContain(key);
    expect(JSON.stringify(kept)).not.toContain(recoveryCodes[0].replace('-', ''));

    const next = new Visitor();
    expect(good(await next.signIn('manager@quillmere.example'))).toMatchObject({ user: null, needs: 'code' });
    expect((await next.call(routeTo('listEmails'))).status).toBe(401);
    expect((await next.call(routeTo('giveCode'), { code: first })).json.error.code).toBe('wrong-code');
    expect(good(await next.call(routeTo('giveCode'), { code: second })).user).toMatchObject({
      email: 'manager@quillmere.example',
    });
    expect((await next.call(routeTo('listEmails'))).status).toBe(200);
    const again = new Visitor();
    await again.signIn('manager@quillmere.example');
    expect((await again.call(routeTo('giveCode'), { code: second })).status).toBe(401);
    good(await again.call(routeTo('giveCode'), { code: recoveryCodes[3].toUpperCase() }));
    await again.signIn('manager@quillmere.example');
    expect((await again.call(routeTo('giveCode'), { code: recoveryCodes[3] })).json.error.code).toBe('wrong-code');
    expect(good(await as('manager')(routeTo('getSecondFactor')))).toEqual({ on: true, recoveryCodes: 9 });
  });

  test('guessed wrong five times, the password has to be given again', async () => {
    const me = new Visitor();
    await me.signIn('manager@quillmere.example');
    const answers = [];
    for (let at = 0; at < 5; at += 1) answers.push((await me.call(routeTo('giveCode'), { code: '111111' })).status);
    expect(answers).toEqual([401, 401, 401, 401, 429]);
    expect((await me.call(routeTo('giveCode'), { code: '111111' })).json.error.message).toContain(
      'Sign in with address and password first',
    );
  });

  test('lost, it is taken off by an administrator, and the member is told', async () => {
    good(await as('admin')(routeTo('resetSecondFactor', { id: crew.ids.manager })));
    expect(good(await new Visitor().signIn('manager@quillmere.example')).needs).toBeNull();
    expect(good(await as('manager')(routeTo('listAudit', { kind: 'account' }))).entries[0]).toMatchObject({
      actor: 'Ada Admin',
      about: 'took the second factor off manager person',
    });
  });

  test('needed by the workspace, nothing else is done before it is set up', async () => {
    expect((await as('admin')(routeTo('putWorkspace'), { secondFactorNeeded: true })).json.error.code).toBe('no-second-factor');
    await owner(server.ownerUrl, 'UPDATE users SET second_factor = true WHERE id = $1', [crew.ids.admin]);
    good(await as('admin')(routeTo('putWorkspace'), { secondFactorNeeded: true }));
    const me = new Visitor();
    expect(good(await me.signIn('viewer@quillmere.example')).needs).toBe('second factor');
    expect((await me.call(routeTo('listEmails'))).json.error.code).toBe('second-factor-needed');
    const { key } = good(await me.call(routeTo('beginSecondFactor'), { password: PASSWORD }));
    good(await me.call(routeTo('confirmSecondFactor'), { code: codeAt(key, Date.now()) }));
    expect((await me.call(routeTo('listEmails'))).status).toBe(200);
    expect((await me.call(routeTo('endSecondFactor'), { password: PASSWORD })).json.error.code).toBe('needed');
    good(await as('admin')(routeTo('putWorkspace'), { secondFactorNeeded: false }));
    good(await me.call(routeTo('endSecondFactor'), { password: PASSWORD }));
    await owner(server.ownerUrl, 'UPDATE users SET second_factor = false WHERE id = $1', [crew.ids.admin]);
  });
});

describe('sessions', () => {
  test('are listed, and ended one by one or all but this one', async () => {
    const [here, there, elsewhere] = [new Visitor(), new Visitor(), new Visitor()];
    for (const visitor of [here, there, elsewhere]) good(await visitor.signIn('other@quillmere.example'));
    const { sessions } = good(await here.call(routeTo('listSessions')));
    expect(sessions[0]).toMatchObject({ current: true, program: 'Test browser', since: expect.any(String) });
    expect(JSON.stringify(sessions)).not.toContain(decodeURIComponent(here.cookie).split('s:')[1]?.split('.')[0]);
    const other = sessions.find((session: { current: boolean }) => !session.current);
    expect(good(await here.call(routeTo('endSession', { session: other.id })))).toEqual({ ended: 1 });
    good(await here.call(routeTo('endSession', { session: 'others' })));
    expect([
      (await here.call(routeTo('listEmails'))).status,
      (await there.call(routeTo('listEmails'))).status,
      (await elsewhere.call(routeTo('listEmails'))).status,
    ]).toEqual([200, 401, 401]);
    expect((await here.call(routeTo('endSession', { session: '0123456789abcdef01234567' }))).status).toBe(404);
  });

  test('end with the password that began them', async () => {
    const [here, there] = [new Visitor(), new Visitor()];
    for (const visitor of [here, there]) good(await visitor.signIn('other@quillmere.example'));
    expect((await here.call(routeTo('changeOwnPassword'), { current: 'wrong', password: 'a quite new password' })).json.error.code).toBe(
      'wrong-password',
    );
    good(await here.call(routeTo('changeOwnPassword'), { current: PASSWORD, password: 'a quite new password' }));
    expect([(await here.call(routeTo('listEmails'))).status, (await there.call(routeTo('listEmails'))).status]).toEqual([200, 401]);
    expect((await new Visitor().signIn('other@quillmere.example')).status).toBe(401);
    good(await here.call(routeTo('changeOwnPassword'), { current: 'a quite new password', password: PASSWORD }));
  });

  test('a session that was planted before signing in is worth nothing after', async () => {
    const me = new Visitor();
    good(await me.signIn('other@quillmere.example'));
    const before = me.cookie;
    good(await me.signIn('other@quillmere.example'));
    expect(me.cookie).not.toBe(before);
    me.cookie = before;
    expect((await me.call(routeTo('listEmails'))).status).toBe(401);
  });
});

describe('access tokens', () => {
  test('do what their scopes name, until their end', async () => {
    const make = async (body: object): Promise<string> => good(await makeToken(server, 'admin@quillmere.example', body)).token;
    const reads = await make({ scopes: ['read'] });
    const writes = await make({ scopes: ['read', 'write'], days: 3 });
    const call = (token: string, target: Destination, body?: unknown) => server.call(target, { token, body });
    expect((await call(reads, routeTo('listEmails'))).status).toBe(200);
    expect((await call(reads, routeTo('createToken'), { name: 'more' })).json.error.message).toContain('lacks “write”');
    expect((await call(writes, routeTo('listTrials'))).json.error.code).toBe('token-scope');
    expect((await call(writes, routeTo('putWorkspace'), { name: 'Ours' })).json.error.message).toContain('lacks “admin”');
    const listed = good(await as('admin')(routeTo('listTokens'))).tokens;
    expect(listed[0]).toMatchObject({ scopes: ['read', 'write'], expiresAt: expect.any(String) });
    await owner(server.ownerUrl, `UPDATE access_tokens SET expires_at = now() - interval '1 second' WHERE id = $1`, [listed[0].id]);
    expect((await call(writes, routeTo('listEmails'))).json.error.code).toBe('bad-token');
    expect((await makeToken(server, 'admin@quillmere.example', { scopes: [] })).status).toBe(422);
  });
});

describe('invitations', () => {
  test('lead to an account with a password of one’s own; a link is good once, and not after it was taken back', async () => {
    const { token, invitation } = good(
      await as('admin')(routeTo('invite'), { email: 'new@quillmere.example', name: 'New One', role: 'rep' }),
    );
    expect(invitation).toMatchObject({ state: 'open', by: 'Ada Admin' });
    const guest = new Visitor();
    expect(good(await guest.call(routeTo('getInvitation', { token })))).toMatchObject({
      email: 'new@quillmere.example',
      name: 'New One',
    });
    expect((await guest.call(routeTo('acceptInvitation'), { token, name: 'New One', password: 'short' })).status).toBe(422);
    expect(good(await guest.call(routeTo('acceptInvitation'), { token, name: 'New Won', password: PASSWORD })).user).toMatchObject({
      name: 'New Won',
      role: 'rep',
    });
    expect((await guest.call(routeTo('listEmails'))).status).toBe(200);
    expect((await new Visitor().call(routeTo('acceptInvitation'), { token, name: 'Evil', password: PASSWORD })).json.error.code).toBe(
      'bad-invitation',
    );
    expect((await as('admin')(routeTo('invite'), { email: 'NEW@quillmere.example', name: 'x', role: 'rep' })).json.error.code).toBe(
      'exists',
    );
    const second = good(await as('admin')(routeTo('invite'), { email: 'two@quillmere.example', name: 'Two', role: 'viewer' }));
    good(await as('admin')(routeTo('withdrawInvitation', { id: second.invitation.id })));
    expect((await new Visitor().call(routeTo('getInvitation', { token: second.token }))).status).toBe(404);
    const [row] = await owner(server.ownerUrl, 'SELECT token_hash FROM invitations LIMIT 1');
    expect(row?.token_hash).not.toBe(token);
  });
});

describe('signing in at the identity provider', () => {
  const issuer = (): string => `http://127.0.0.1:${provider.ports.web}`;
  /** Goes through the provider's page as a browser would. */
  async function through(visitor: Visitor, address: string, change: (back: URL) => void = () => undefined): Promise<Response> {
    const begin = await fetch(`${server.url}/api/v1/session/provider`, { redirect: 'manual', headers: { cookie: visitor.cookie } });
    visitor.cookie = begin.headers.get('set-cookie')?.split(';')[0] ?? visitor.cookie;
    const page = new URL(begin.headers.get('location') ?? '');
    const form = new URLSearchParams([...page.searchParams, ['address', address], ['password', 'at the provider'], ['allow', 'yes']]);
    const allowed = await fetch(`${issuer()}/authorize`, { method: 'POST', body: form, redirect: 'manual' });
    const back = new URL(allowed.headers.get('location') ?? '');
    change(back);
    const done = await fetch(back, { redirect: 'manual', headers: { cookie: visitor.cookie } });
    visitor.cookie = done.headers.get('set-cookie')?.split(';')[0] ?? visitor.cookie;
    return done;
  }
  const told = (done: Response): string => new URL(done.headers.get('location') ?? '', 'http://x').searchParams.get('sign-in') ?? '';

  test('lets in whom the provider vouches for, and no one else', async () => {
    expect((await fetch(`${server.url}/api/v1/session/provider`, { redirect: 'manual' })).status).toBe(404);
    expect(
      (
        await as('admin')(routeTo('putWorkspace'), {
          identityProvider: { issuer: issuer(), clientId: CLIENT.clientId, label: 'Longshore' },
        })
      ).json.error.message,
    ).toContain('client secret');
    good(
      await as('admin')(routeTo('putWorkspace'), {
        identityProvider: { issuer: issuer(), clientId: CLIENT.clientId, clientSecret: CLIENT.clientSecret, label: 'Longshore' },
      }),
    );
    expect(good(await server.call(routeTo('getSession')))).toMatchObject({ provider: 'Longshore' });
    const [kept] = await owner(server.ownerUrl, 'SELECT sealed FROM workspace_secrets');
    expect(kept?.sealed).not.toContain(CLIENT.clientSecret);

    const me = new Visitor();
    expect((await through(me, 'rep@quillmere.example')).headers.get('location')).toBe('/');
    expect(good(await me.call(routeTo('getSession'))).user).toMatchObject({ email: 'rep@quillmere.example' });
    // From then on by who they are at the provider, whatever their address here.
    await owner(server.ownerUrl, `UPDATE users SET email = 'rep.two@quillmere.example' WHERE id = $1`, [crew.ids.rep]);
    const again = new Visitor();
    await through(again, 'rep@quillmere.example');
    expect(good(await again.call(routeTo('getSession'))).user).toMatchObject({ id: crew.ids.rep });
    await owner(server.ownerUrl, `UPDATE users SET email = 'rep@quillmere.example' WHERE id = $1`, [crew.ids.rep]);

    expect(told(await through(new Visitor(), 'stranger@elsewhere.example'))).toContain('No one on the team has the address');
  });

  test('refuses an address that the provider does not vouch for, a foreign state, and an answer that no one asked for', async () => {
    const account = provider.store.accounts.get('rep@quillmere.example');
    if (account) account.verified = false;
    expect(told(await through(new Visitor(), 'rep@quillmere.example'))).toContain('does not vouch for your address');
    if (account) account.verified = true;
    expect(told(await through(new Visitor(), 'rep@quillmere.example', (back) => back.searchParams.set('state', 'another')))).toContain(
      'could not be verified',
    );
    const unasked = await fetch(`${server.url}/api/v1/session/provider/return?code=x&state=y`, { redirect: 'manual' });
    expect(told(unasked)).toContain('was not begun here');
    const otherCookie = new Visitor();
    expect(told(await through(otherCookie, 'rep@quillmere.example', () => (otherCookie.cookie = '')))).toContain('was not begun here');
  });

  test('never goes to a private address where the installation does not allow it', async () => {
    const closed = await server.again({ privateHosts: false });
    try {
      const answer = await fetch(`${closed.url}/api/v1/session/provider`, { redirect: 'manual' });
      expect(answer.status).toBeGreaterThanOrEqual(400);
      expect(answer.headers.get('location')).toBeNull();
    } finally {
      await closed.stop();
    }
  });
});

describe('leaving', () => {
  test('closes every door at once, passes mailboxes and records on, and leaves histories as they are', async () => {
    await as('admin')(routeTo('importRecords', { kind: 'account' }), {
      text: 'name,domains,owner\nHarbour Oriel,harbour.example,other@quillmere.example\n',
    });
    await importMail(server, crew.tokens.admin, 'other@quillmere.example', {
      'other.mbox': mbox([{ id: 'kept', from: 'ida@harbour.example', to: 'other@quillmere.example', subject: 'Barnacles' }]),
    });
    const { cookie } = await signIn(server, 'other@quillmere.example');
    const other = await as('other')(routeTo('listEmails'));
    expect(other.json.total).toBe(1);
    expect((await as('admin')(routeTo('deactivateMember', { id: crew.ids.other }), { mailboxesTo: crew.ids.admin })).json.error.code).toBe(
      'own-hand',
    );
    expect((await as('admin')(routeTo('deactivateMember', { id: crew.ids.admin }), {})).json.error.code).toBe('last-admin');
    expect((await as('admin')(routeTo('changeMember', { id: crew.ids.admin }), { role: 'rep' })).json.error.code).toBe('last-admin');
    const done = good(
      await as('admin')(routeTo('deactivateMember', { id: crew.ids.other }), { mailboxesTo: crew.ids.manager, recordsTo: crew.ids.rep }),
    );
    expect(done).toMatchObject({ mailboxes: 1, emails: 1, records: 1, tokens: 1 });
    expect(done.sessions).toBeGreaterThan(0);
    expect((await as('other')(routeTo('listEmails'))).status).toBe(401);
    expect((await server.call(routeTo('listEmails'), { headers: { cookie } })).status).toBe(401);
    expect((await signIn(server, 'other@quillmere.example')).status).toBe(401);
    expect((await as('manager')(routeTo('listEmails'))).json.emails[0].content.subject).toBe('Barnacles');
    expect((await as('rep')(routeTo('listRecords', { kind: 'account' }))).json.records[0]).toMatchObject({ owner: expect.anything() });
    expect(good(await as('rep')(routeTo('listTeam'))).members.some((member: { id: number }) => member.id === crew.ids.other)).toBe(false);
    good(await as('admin')(routeTo('activateMember', { id: crew.ids.other })));
    expect((await signIn(server, 'other@quillmere.example')).status).toBe(200);
  });
});

describe('the log of sign-ins', () => {
  test('has those that failed too, for whom they concern, and never what was typed', async () => {
    await signIn(server, 'viewer@quillmere.example', 'my secret mistake');
    await signIn(server, 'nobody.here@quillmere.example', 'another mistake');
    const mine = good(await as('viewer')(routeTo('listAudit'))).entries;
    expect(mine.map((item: { kind: string }) => item.kind)).toEqual(expect.arrayContaining(['sign-in', 'failed sign-in']));
    const all = (await as('admin')(routeTo('exportAudit'))).text;
    expect(all).not.toMatch(/mistake|no one\.here/);
    expect(good(await as('admin')(routeTo('checkAudit'))).intact).toBe(true);
  });
});
