import { routeTo } from '../../testing/routeTo';
import { describe, expect, test } from '@jest/globals';
import { beginConnecting, inStep, MAIL_PASSWORD, until } from '../../testing/mailboxTools';
import { signIn } from '../../testing/testServer';
import { stage, crew } from '../../testing/connectingStage';

describe('signing in at the provider', () => {
  test('by redirect, with renewal, until the permission is taken back there', async () => {
    const address = 'admin@quillmere.example';
    const { cookie, csrf } = await signIn(stage.server, address);
    const headers = { cookie, 'x-fulvet-csrf': csrf };
    const { id } = await beginConnecting(stage, {
      token: crew.tokens.admin,
      address,
      connection: { signIn: 'redirect', password: undefined },
    });
    const begun = await stage.server.call(routeTo('beginRedirect', { id }), { headers });
    const form = new URL(begun.json.url).searchParams;
    expect(form.get('code_challenge_method')).toBe('S256');
    for (const [name, value] of Object.entries({ address, password: MAIL_PASSWORD, allow: 'yes' })) form.set(name, value);
    const allowed = await fetch(`${stage.mailhost.webUrl}/authorize`, { method: 'POST', body: form, redirect: 'manual' });
    const back = new URL(allowed.headers.get('location') ?? '');
    const stranger = await signIn(stage.server, 'other@quillmere.example');
    const stolen = await fetch(back, { headers: { cookie: stranger.cookie }, redirect: 'manual' });
    expect(stolen.status).toBe(409);
    const returned = await fetch(back, { headers: { cookie }, redirect: 'manual' });
    expect(returned.headers.get('location')).toBe(`/mailboxes/connect/${id}?signedIn=yes`);
    const ask = async () => (await stage.server.call(routeTo('getMailbox', { id }), { token: crew.tokens.admin })).json;
    await until(ask, (mailbox) => mailbox.checked);

    // A token that ran out is renewed without anyone noticing.
    stage.mailhost.signInPage.options.accessSeconds = 1;
    await stage.server.call(routeTo('startMailbox', { id }), { token: crew.tokens.admin });
    await inStep(stage, crew.tokens.admin, id);
    stage.mailhost.signInPage.revokeAll(address);
    stage.mailhost.dropConnections();
    const stopped = await until(ask, (mailbox) => mailbox.state === 'stopped');
    expect(stopped.health.problem).toMatchObject({
      code: 'permission-withdrawn',
      todo: 'The provider no longer lets Fulvet in. Sign in at the provider again.',
    });
  });
});
