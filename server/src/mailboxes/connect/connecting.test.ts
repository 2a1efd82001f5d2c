import { owner } from '../../testing/testServer';
import { routeTo } from '../../testing/routeTo';
import { describe, expect, test } from '@jest/globals';
import { beginConnecting, check, connect, inStep, MAIL_PASSWORD, putMail, storedOf, until } from '../../testing/mailboxTools';
import { stage, crew, rep } from '../../testing/connectingStage';

const stepsOf = (mailbox: { checks: { step: string; state: string }[] }): string =>
  mailbox.checks.map((item) => `${item.step} ${item.state}`).join(', ');

describe('finding the servers', () => {
  test('by the domain’s service records', async () => {
    const { json } = await stage.server.call(routeTo('findServers'), { token: crew.tokens.rep, body: { address: rep } });
    expect(json).toMatchObject({
      by: 'service records',
      preset: 'longshore',
      imap: { host: 'mail.longshore.example', port: stage.mailhost.ports.imaps, security: 'tls' },
    });
  });

  test('of a domain that says nothing, none', async () => {
    const { json } = await stage.server.call(routeTo('findServers'), {
      token: crew.tokens.rep,
      body: { address: 'a@nowhere.example' },
    });
    expect(json).toEqual({ by: 'nothing', preset: 'general', imap: null, smtp: null });
  });
});

describe('the list of checks', () => {
  test('a wrong password fails the sign-in with what the server said, and goes on from that step', async () => {
    const { id } = await beginConnecting(stage, { token: crew.tokens.rep, address: rep, connection: { password: 'wrong' } });
    const failed = await check(stage, crew.tokens.rep, id);
    expect(stepsOf(failed)).toBe('name passed, port passed, tls passed, sign-in failed, folders waiting, newest waiting, sending waiting');
    expect(failed.checks[3]).toMatchObject({
      code: 'sign-in-refused',
      said: 'The address or the password is wrong',
      remedy: expect.stringContaining('Longshore did not know this password'),
    });
    expect(failed.health.state).toBe('Being connected');
    const early = await stage.server.call(routeTo('startMailbox', { id }), { token: crew.tokens.rep });
    expect([early.status, early.json.error.code]).toEqual([409, 'not-checked']);

    const { connection } = failed;
    await stage.server.call(routeTo('putConnection', { id }), {
      token: crew.tokens.rep,
      body: { imap: connection.imap, smtp: connection.smtp, userName: rep, signIn: 'password', password: MAIL_PASSWORD },
    });
    const fixed = await check(stage, crew.tokens.rep, id, 'sign-in');
    expect(stepsOf(fixed)).toBe('name passed, port passed, tls passed, sign-in passed, folders passed, newest passed, sending passed');
    expect(fixed.health.state).toBe('Tried and ready to start');
    expect(
      fixed.folders
        .filter((folder: { followed: boolean }) => folder.followed)
        .map((folder: { path: string; role: string }) => `${folder.path} ${folder.role}`),
    ).toEqual(['INBOX inbox', 'Sent sent', 'Archive archive']);
  });

  test.each([
    ['the IMAP door is shut', { imapOff: true }, 'sign-in', 'imap-off', 'switch on “IMAP door”'],
    ['sending is shut', { smtpOff: true }, 'sending', 'sending-off', 'switch on “Sending door”'],
    ['the provider is down', { down: true }, 'sign-in', 'dropped', 'connects again'],
    ['the provider wants a pause', { throttleAfter: 2 }, 'sign-in', 'throttled', 'nothing is to be done'],
  ])('%s', async (_, faults, step, code, remedy) => {
    const address = 'other@quillmere.example';
    const { id } = await beginConnecting(stage, { token: crew.tokens.other, address });
    stage.mailhost.faults.set(faults);
    const failed = await check(stage, crew.tokens.other, id);
    const at = failed.checks.find((item: { state: string }) => item.state === 'failed');
    expect([at.step, at.code]).toEqual([step, code]);
    expect(at.remedy).toContain(remedy);
  });

  test('an unknown name, a closed port, and a certificate for another name each say so', async () => {
    const address = 'other@quillmere.example';
    const servers = {
      imap: { host: 'mail.longshore.example', port: stage.mailhost.ports.imaps, security: 'tls' },
      smtp: { host: 'mail.longshore.example', port: stage.mailhost.ports.submissions, security: 'tls' },
    };
    const codeWith = async (imap: object): Promise<string> => {
      const { id } = await beginConnecting(stage, {
        token: crew.tokens.other,
        address,
        connection: { ...servers, imap: { ...servers.imap, ...imap } },
      });
      const failed = await check(stage, crew.tokens.other, id);
      return failed.checks.map((item: { code: string | null }) => item.code).find(Boolean);
    };
    expect(await codeWith({ host: 'no-such-host.invalid' })).toBe('name-unknown');
    expect(await codeWith({ port: 1 })).toBe('port-closed');
    expect(await codeWith({ host: '127.0.0.1' })).toBe('tls-untrusted');
    expect(await codeWith({ port: stage.mailhost.ports.imap })).toBe('tls-missing');
  });

  test('STARTTLS works as well', async () => {
    const address = 'other@quillmere.example';
    const endpoint = (port: number) => ({ host: 'mail.longshore.example', port, security: 'starttls' });
    const { id } = await beginConnecting(stage, {
      token: crew.tokens.other,
      address,
      connection: { imap: endpoint(stage.mailhost.ports.imap), smtp: endpoint(stage.mailhost.ports.submission) },
    });
    expect((await check(stage, crew.tokens.other, id)).checked).toBe(true);
  });
});

describe('how far back', () => {
  test('each choice says how many emails and how long', async () => {
    const address = 'manager@quillmere.example';
    for (const days of [1, 40, 200, 500])
      putMail(
        stage.mailhost,
        address,
        { id: `back-${days}@x`, from: 'ida@harbour.example', to: address },
        'INBOX',
        new Date(Date.now() - days * 86_400_000),
      );
    const { id } = await beginConnecting(stage, { token: crew.tokens.manager, address });
    await check(stage, crew.tokens.manager, id);
    const { json } = await stage.server.call(routeTo('getLookBack', { id }), { token: crew.tokens.manager });
    const counted = Object.fromEntries(
      json.choices.map((choice: { days: number | null; emails: number }) => [String(choice.days), choice.emails]),
    );
    // The test email to oneself, and its copy among the sent ones, count too.
    expect(counted).toEqual({ 30: 3, 90: 4, 365: 5, null: 6 });
    await stage.server.call(routeTo('putMailboxSettings', { id }), { token: crew.tokens.manager, body: { readSinceDays: 90 } });
    await stage.server.call(routeTo('startMailbox', { id }), { token: crew.tokens.manager });
    await inStep(stage, crew.tokens.manager, id);
    expect((await storedOf(stage.server, address)).map((item) => item.id)).toEqual(['back-1@x', 'back-40@x']);
  });
});

test('a mail server that is away while counting is said, and what to do about it', async () => {
  const address = 'manager@quillmere.example';
  const listed = await stage.server.call(routeTo('listMailboxes'), { token: crew.tokens.manager });
  const { id } = listed.json.mailboxes.find((mailbox: { address: string }) => mailbox.address === address);
  stage.mailhost.faults.set({ down: true });
  const { status, json } = await stage.server.call(routeTo('getLookBack', { id }), { token: crew.tokens.manager });
  stage.mailhost.faults.set({ down: false });
  expect([status, json.error.code]).toEqual([502, 'mail-server']);
});

describe('whose mailbox', () => {
  test('a rep connects the own one only; shared ones are for administrators', async () => {
    const foreign = await stage.server.call(routeTo('createMailbox'), { token: crew.tokens.other, body: { address: rep } });
    expect(foreign.status).toBe(403);
    const shared = await stage.server.call(routeTo('createMailbox'), {
      token: crew.tokens.other,
      body: { address: 'sales@quillmere.example', kind: 'shared' },
    });
    expect(shared.status).toBe(403);
    const viewer = await stage.server.call(routeTo('createMailbox'), {
      token: crew.tokens.viewer,
      body: { address: 'viewer@quillmere.example' },
    });
    expect(viewer.status).toBe(403);
  });

  test('what goes on in it is for its owner and administrators', async () => {
    const { json } = await stage.server.call(routeTo('listMailboxes'), { token: crew.tokens.other });
    const listed = json.mailboxes.find((mailbox: { address: string }) => mailbox.address === rep);
    expect([listed.lookedAfter, listed.health]).toEqual([false, null]);
    for (const route of [
      'getMailbox',
      'checkMailbox',
      'startMailbox',
      'pauseMailbox',
      'listMailboxEvents',
      'getLookBack',
      'disconnectMailbox',
    ] as const) {
      const target = routeTo(route, { id: listed.id });
      const body = target.method === 'POST' ? { body: {} } : {};
      const answer = await stage.server.call(target, { token: crew.tokens.other, ...body });
      expect([route, answer.status]).toEqual([route, 404]);
    }
    expect((await stage.server.call(routeTo('getMailbox', { id: listed.id }), { token: crew.tokens.admin })).status).toBe(200);
  });
});

describe('many at once', () => {
  test('each line says what is wrong with it before anything is done; then each runs its own checks', async () => {
    for (const name of ['many1', 'many2']) stage.mailhost.store.addAccount(`${name}@quillmere.example`, MAIL_PASSWORD);
    const bad = await stage.server.call(routeTo('connectMany'), {
      token: crew.tokens.admin,
      body: {
        text: `address,password,owner\nmany1@quillmere.example,${MAIL_PASSWORD},admin@quillmere.example\nmany1@quillmere.example,x,admin@quillmere.example\nnonsense,x,\nx@nowhere.example,x,admin@quillmere.example\nmany2@quillmere.example,,admin@quillmere.example`,
        commit: true,
      },
    });
    expect(bad.json.done).toBe(false);
    expect(bad.json.rows.map((row: { problem: string | null }) => row.problem)).toEqual([
      null,
      'is connected already, or stands in the file twice',
      expect.stringContaining('address'),
      'its mail servers were not found: fill in imap_host and smtp_host',
      'has no password; mailboxes that sign in at their provider are connected one by one',
    ]);
    const good = await stage.server.call(routeTo('connectMany'), {
      token: crew.tokens.admin,
      body: {
        text: `address;password;owner\nmany1@quillmere.example;${MAIL_PASSWORD};admin@quillmere.example\nmany2@quillmere.example;wrong;admin@quillmere.example\n`,
        commit: true,
      },
    });
    expect(good.json.done).toBe(true);
    const states = await Promise.all(
      good.json.rows.map(({ mailboxId }: { mailboxId: number }) =>
        until(
          async () => (await stage.server.call(routeTo('getMailbox', { id: mailboxId }), { token: crew.tokens.admin })).json,
          (item) => item.checked || item.checks.some((step: { state: string }) => step.state === 'failed'),
        ),
      ),
    );
    expect(states.map((state) => [state.address, state.checked, state.checks[3].state])).toEqual([
      ['many1@quillmere.example', true, 'passed'],
      ['many2@quillmere.example', false, 'failed'],
    ]);
  });
});

describe('leaving', () => {
  test('a mailbox passes to a colleague with its emails; disconnected, its history stays and its password is forgotten', async () => {
    const address = 'leaver@quillmere.example';
    stage.mailhost.store.addAccount(address, MAIL_PASSWORD);
    putMail(stage.mailhost, address, { id: 'kept@x', from: 'ida@harbour.example', to: address });
    const id = await connect(stage, { token: crew.tokens.admin, address, body: { ownerId: crew.ids.manager } });
    await inStep(stage, crew.tokens.admin, id);
    const seenBy = async (token: string): Promise<number> =>
      (await stage.server.call(routeTo('listEmails', { mailbox: address, domain: 'harbour.example' }), { token })).json.total;
    expect([await seenBy(crew.tokens.manager), await seenBy(crew.tokens.other)]).toEqual([1, 0]);
    const passed = await stage.server.call(routeTo('passOnMailbox', { id }), {
      token: crew.tokens.admin,
      body: { ownerId: crew.ids.other },
    });
    expect(passed.json.emails).toBeGreaterThan(0);
    expect([await seenBy(crew.tokens.manager), await seenBy(crew.tokens.other)]).toEqual([0, 1]);
    await stage.server.call(routeTo('disconnectMailbox', { id }), { token: crew.tokens.admin });
    const closed = await stage.server.call(routeTo('getMailbox', { id }), { token: crew.tokens.admin });
    expect([closed.json.health.state, closed.json.connection.hasSecret, await seenBy(crew.tokens.other)]).toEqual([
      'Disconnected; its history stays',
      false,
      1,
    ]);
  });
});

describe('secrets', () => {
  test('a password is never shown, logged or stored in plain text, and survives a change of keys', async () => {
    const { json } = await stage.server.call(routeTo('listMailboxes'), { token: crew.tokens.admin });
    const { id } = json.mailboxes.find((mailbox: { address: string }) => mailbox.address === rep);
    const shown = await stage.server.call(routeTo('getMailbox', { id }), { token: crew.tokens.rep });
    expect(shown.text).not.toContain(MAIL_PASSWORD);
    expect(shown.json.connection.hasSecret).toBe(true);
    const dumped = await owner(
      stage.server.ownerUrl,
      `SELECT coalesce((SELECT string_agg(to_jsonb(m)::text, '') FROM mailboxes m), '') || (SELECT string_agg(sealed, ' ') FROM mailbox_secrets) || (SELECT string_agg(message || said, '') FROM mailbox_events) AS all`,
    );
    expect(dumped[0]?.all).not.toContain(MAIL_PASSWORD);
    const log = await stage.server.call(routeTo('exportMailboxEvents', { id }), { token: crew.tokens.rep });
    expect(log.text).toContain('All checks passed.');
    expect(log.text).not.toContain(MAIL_PASSWORD);

    const before = await owner(stage.server.ownerUrl, 'SELECT sealed FROM mailbox_secrets ORDER BY 1');
    const rotated = await stage.server.call(routeTo('rotateMailKeys'), { token: crew.tokens.admin });
    expect(rotated.json.sealed).toBe(before.length);
    const after = await owner(stage.server.ownerUrl, 'SELECT sealed FROM mailbox_secrets ORDER BY 1');
    expect(after).not.toEqual(before);
    expect((await check(stage, crew.tokens.rep, id)).checked).toBe(true);
  });

  test('is not sent to another server than the one it was given for', async () => {
    const { json } = await stage.server.call(routeTo('listMailboxes'), { token: crew.tokens.admin });
    const { id } = json.mailboxes.find((mailbox: { address: string }) => mailbox.address === 'other@quillmere.example');
    const { connection } = (await stage.server.call(routeTo('getMailbox', { id }), { token: crew.tokens.other })).json;
    const moved = await stage.server.call(routeTo('putConnection', { id }), {
      token: crew.tokens.other,
      body: {
        imap: { ...connection.imap, host: 'thief.example' },
        smtp: connection.smtp,
        userName: 'other@quillmere.example',
        signIn: 'password',
      },
    });
    expect(moved.json.connection.hasSecret).toBe(false);
  });
});
