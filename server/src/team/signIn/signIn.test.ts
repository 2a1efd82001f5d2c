import { routeTo } from '../../testing/routeTo';
import type { Destination } from '../../testing/routeTo';
import { describe, expect, test } from '@jest/globals';
import { owner, PASSWORD, makeToken } from '../../testing/testServer';
import { codeAt } from './secondFactor';
import { server, crew, as, good, Visitor } from '../../testing/signInStage';

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
