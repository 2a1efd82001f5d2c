import { routeTo } from '../../testing/routeTo';
import { describe, expect, test } from '@jest/globals';
import { CLIENT } from '@fulvet/mailhost';
import { importMail, mbox, owner, signIn } from '../../testing/testServer';
import { server, crew, provider, as, good, Visitor } from '../../testing/signInStage';

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
    expect((await signIn(server, 'viewer@quillmere.example')).status).toBe(200);
    await signIn(server, 'viewer@quillmere.example', 'my secret mistake');
    await signIn(server, 'nobody.here@quillmere.example', 'another mistake');
    const mine = good(await as('viewer')(routeTo('listAudit'))).entries;
    expect(mine.map((item: { kind: string }) => item.kind)).toEqual(expect.arrayContaining(['sign-in', 'failed sign-in']));
    const all = (await as('admin')(routeTo('exportAudit'))).text;
    expect(all).not.toMatch(/mistake|no one\.here/);
    expect(good(await as('admin')(routeTo('checkAudit'))).intact).toBe(true);
  });
});
