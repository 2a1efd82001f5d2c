import { describe, expect, test } from '@jest/globals';
import { createHash } from 'node:crypto';
import { Resolver } from 'node:dns/promises';
import { HOST } from './mailhost';
import { nadia, sales, mailhost, withClient } from './testing/hostStage';

describe('the sign-in page', () => {
  const redirectUri = 'http://127.0.0.1:9/back';
  const verifier = 'a'.repeat(50);
  const post = (path: string, form: Record<string, string>): Promise<Response> =>
    fetch(mailhost.webUrl + path, { method: 'POST', body: new URLSearchParams(form), redirect: 'manual' });
  const program = { client_id: 'fulvet-local', client_secret: 'longshore-shared-secret', redirect_uri: redirectUri };
  const grant = async (): Promise<{ access_token: string; refresh_token: string }> => {
    const challenge = createHash('sha256').update(verifier).digest('base64url');
    const allowed = await post('/authorize', {
      ...program,
      code_challenge: challenge,
      code_challenge_method: 'S256',
      state: 's',
      address: nadia,
      password: 'pw',
      allow: 'yes',
    });
    const back = new URL(allowed.headers.get('location') ?? '');
    expect(back.searchParams.get('state')).toBe('s');
    const code = back.searchParams.get('code') ?? '';
    const wrong = await post('/token', { ...program, grant_type: 'authorization_code', code: 'other', code_verifier: verifier });
    expect(wrong.status).toBe(400);
    return (await (await post('/token', { ...program, grant_type: 'authorization_code', code, code_verifier: verifier })).json()) as {
      access_token: string;
      refresh_token: string;
    };
  };

  test('gives a token that opens the mailbox and those shared with its owner, until it is taken back', async () => {
    const { access_token: accessToken, refresh_token: refreshToken } = await grant();
    for (const user of [nadia, sales])
      expect(await withClient((flow) => Promise.resolve(Boolean(flow.authenticated)), { auth: { user, accessToken } })).toBe(true);
    const again = await post('/token', { ...program, grant_type: 'refresh_token', refresh_token: refreshToken });
    expect(again.status).toBe(200);
    await post('/revoke', { token: refreshToken });
    await expect(withClient(() => Promise.resolve(), { auth: { user: nadia, accessToken } })).rejects.toMatchObject({
      authenticationFailed: true,
    });
    expect((await post('/token', { ...program, grant_type: 'refresh_token', refresh_token: refreshToken })).status).toBe(400);
  });

  test('a wrong password stays on the page', async () => {
    const answer = await post('/authorize', {
      ...program,
      code_challenge: 'x',
      code_challenge_method: 'S256',
      address: nadia,
      password: 'no',
      allow: 'yes',
    });
    expect(await answer.text()).toContain('Address or password is wrong');
  });
});

describe('the shore page', () => {
  test('plays someone outside, and refuses other pages', async () => {
    const write = (headers: Record<string, string>): Promise<Response> =>
      fetch(`${mailhost.webUrl}/play/write`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', ...headers },
        body: JSON.stringify({ from: 'Ida <ida@harbour.example>', to: nadia, subject: 'Grüße', text: 'hello' }),
      });
    expect((await write({ origin: 'http://elsewhere.example' })).status).toBe(403);
    expect((await write({})).status).toBe(200);
    const raw = mailhost.store.accounts.get(nadia)?.folders.get('INBOX')?.messages[0]?.raw.toString() ?? '';
    expect(raw).toContain('From: Ida <ida@harbour.example>');
    expect(await (await fetch(mailhost.webUrl)).text()).toContain('Write to a teammate');
  });
});

describe('service records', () => {
  test('lead from an address’s domain to the host', async () => {
    const resolver = new Resolver();
    resolver.setServers([`127.0.0.1:${mailhost.ports.names}`]);
    expect(await resolver.resolveSrv('_imaps._tcp.quillmere.example')).toEqual([
      expect.objectContaining({ name: HOST, port: mailhost.ports.imaps }),
    ]);
    expect(await resolver.resolve4(HOST)).toEqual(['127.0.0.1']);
    await expect(resolver.resolveSrv('_imaps._tcp.elsewhere.example')).rejects.toMatchObject({ code: 'ENOTFOUND' });
  });
});
