import { afterEach, describe, expect, test } from '@jest/globals';
import { until } from '../testing/mailboxTools';
import { routeTo } from '../testing/routeTo';
import { makeToken, owner } from '../testing/testServer';
import { crew, draft, IDA, mailboxId, outside, rep, REP, stage } from '../testing/writingStage';

describe('the owner of a mailbox that was connected before', () => {
  afterEach(async () => {
    await owner(stage.server.ownerUrl, 'DELETE FROM mailbox_users');
    await owner(stage.server.ownerUrl, 'UPDATE mailboxes SET users_send = false');
  });

  test('is asked once about copies in its sent folder; those who only use it are sent to the owner', async () => {
    const noteAsUnasked = (kind: string, userId: number): Promise<unknown> =>
      owner(
        stage.server.ownerUrl,
        'UPDATE mailboxes SET copies_agreed_at = NULL, kind = $2, owner_id = $3, users_send = true WHERE id = $1',
        [mailboxId, kind, userId],
      );
    const agreed = async (): Promise<unknown> =>
      (await owner(stage.server.ownerUrl, 'SELECT copies_agreed_at AS at FROM mailboxes WHERE id = $1', [mailboxId]))[0]?.at;
    expect(await agreed()).not.toBeNull();
    const email = await draft({ to: [IDA], subject: 'Agreed', html: '<p>x</p>' });
    const send = (more: object = {}) => rep(routeTo('sendOutgoing', { id: email.id }), { body: { revision: email.revision, ...more } });
    await owner(stage.server.ownerUrl, 'INSERT INTO mailbox_users (mailbox_id, user_id) VALUES ($1, $2)', [mailboxId, crew.ids.rep]);
    await noteAsUnasked('shared', crew.ids.other);
    const forOwner = await send({ agree: true });
    expect(forOwner.json.error).toMatchObject({ code: 'agree-first', message: expect.stringContaining('has to agree once') });
    expect(await agreed()).toBeNull();
    await noteAsUnasked('person', crew.ids.rep);
    expect((await send()).json.error.message).toContain('put into the sent folder of rep@quillmere.example');
    expect((await rep(routeTo('getOutgoing', { id: email.id }))).json.state).toBe('draft');
    expect((await send({ agree: true })).json.state).toBe('due');
    expect(await agreed()).not.toBeNull();
    const next = await draft({ to: [IDA], subject: 'Agreed before', html: '<p>x</p>' });
    expect((await rep(routeTo('sendOutgoing', { id: next.id }), { body: { revision: next.revision } })).status).toBe(200);
  });
});

describe('the workspace says who', () => {
  const set = async (writingRights: object): Promise<void> => {
    const { status, text } = await stage.server.call(routeTo('putWorkspace'), { token: crew.tokens.admin, body: { writingRights } });
    if (status !== 200) throw new Error(text);
  };
  const anyone = { role: 'rep', teamIds: [] };
  const managers = { role: 'manager', teamIds: [] };
  afterEach(() => set({ send: anyone, share: managers }));
  const start = () => rep(routeTo('startOutgoing'), { body: { to: [IDA] } });

  test('sends: by role and team, when it is begun, sent, and due', async () => {
    const begun = await draft({ to: [IDA], subject: 'Rights', html: '<p>x</p>' });
    await set({ send: managers, share: managers });
    expect((await start()).json.error).toMatchObject({ code: 'may-not-send', message: expect.stringContaining('under Workspace') });
    expect((await rep(routeTo('sendOutgoing', { id: begun.id }), { body: { revision: begun.revision } })).status).toBe(403);
    expect((await rep(routeTo('listSenders'))).json).toEqual({ senders: [], maySend: false, mayShare: false, mayBulk: false });
    const [team] = await owner(stage.server.ownerUrl, `INSERT INTO teams (name) VALUES ('Harbours') RETURNING id::int`);
    const teamId = Number(team?.id);
    await set({ send: { role: 'rep', teamIds: [teamId] }, share: managers });
    expect((await start()).json.error.code).toBe('may-not-send');
    await owner(stage.server.ownerUrl, 'INSERT INTO team_members (team_id, user_id) VALUES ($1, $2)', [teamId, crew.ids.rep]);
    expect((await start()).status).toBe(200);
    // The right is gone when it is due.
    const sent = await rep(routeTo('sendOutgoing', { id: begun.id }), { body: { revision: begun.revision } });
    expect(sent.status).toBe(200);
    await set({ send: { role: 'admin', teamIds: [] }, share: managers });
    await owner(stage.server.ownerUrl, 'UPDATE outgoing SET due_at = now() WHERE id = $1', [begun.id]);
    await owner(stage.server.ownerUrl, `SELECT pg_notify('fulvet_changes', '{"kind":"work","queue":"outgoing"}')`);
    const refused = await until(
      async () => (await rep(routeTo('getOutgoing', { id: begun.id }))).json,
      ({ state }) => state === 'refused' || state === 'sent',
    );
    expect(refused.state).toBe('refused');
    expect(outside('Rights')).toEqual([]);
  });

  test('shares, and the change is undone as a step', async () => {
    const share = () => rep(routeTo('createTemplate'), { body: { kind: 'template', name: 'Shared', scope: 'all' } });
    expect((await share()).json.error.code).toBe('may-not-share');
    const { json } = await stage.server.call(routeTo('putWorkspace'), {
      token: crew.tokens.admin,
      body: { writingRights: { send: anyone, share: anyone } },
    });
    expect((await share()).status).toBe(200);
    expect((await rep(routeTo('listSenders'))).json).toMatchObject({ maySend: true, mayShare: true });
    expect((await stage.server.call(routeTo('undo', { id: json.undo }), { token: crew.tokens.admin })).status).toBe(200);
    expect((await share()).json.error.code).toBe('may-not-share');
    expect((await rep(routeTo('putWorkspace'), { body: { writingRights: { send: anyone, share: anyone } } })).status).toBe(403);
  });
});

describe('no one else', () => {
  test('sees, changes, sends or discards a draft', async () => {
    const { id, revision } = await draft({ to: [IDA], subject: 'Mine' });
    for (const token of [crew.tokens.other, crew.tokens.admin, crew.tokens.manager])
      for (const [target, body] of [
        [routeTo('getOutgoing', { id })],
        [routeTo('previewOutgoing', { id })],
        [routeTo('discardOutgoing', { id })],
        [routeTo('takeBackOutgoing', { id })],
        [routeTo('settleOutgoing', { id }), { wasSent: true }],
      ] as const)
        expect([target.path, (await stage.server.call(target, { token, ...(body ? { body } : {}) })).status]).toEqual([target.path, 404]);
    const sent = await stage.server.call(routeTo('sendOutgoing', { id }), { token: crew.tokens.other, body: { revision } });
    expect(sent.status).toBe(404);
  });

  test('sends by an access token that is not for sending', async () => {
    const { id, revision } = await draft({ to: [IDA], subject: 'By token' });
    const { token } = (await makeToken(stage.server, REP)).json;
    const sent = await stage.server.call(routeTo('sendOutgoing', { id }), { token, body: { revision } });
    expect([sent.status, sent.json.error.code]).toEqual([403, 'token-scope']);
    expect((await stage.server.call(routeTo('getOutgoing', { id }), { token })).json.state).toBe('draft');
  });

  test('sends from a mailbox that is not theirs, though they may read it', async () => {
    await owner(stage.server.ownerUrl, 'INSERT INTO mailbox_users (mailbox_id, user_id) VALUES ($1, $2)', [mailboxId, crew.ids.other]);
    const begun = await stage.server.call(routeTo('startOutgoing'), { token: crew.tokens.other, body: {} });
    expect([begun.status, begun.json.error.code]).toEqual([409, 'no-mailbox']);
  });

  test('sends from a shared address that they use, unless its owner lets them', async () => {
    const senders = async (): Promise<number> =>
      (await stage.server.call(routeTo('listSenders'), { token: crew.tokens.other })).json.senders.length;
    await owner(stage.server.ownerUrl, `UPDATE mailboxes SET kind = 'shared' WHERE id = $1`, [mailboxId]);
    expect(await senders()).toBe(0);
    const put = await rep(routeTo('putMailboxSettings', { id: mailboxId }), { body: { usersSend: true } });
    expect([put.status, put.json.usersSend]).toEqual([200, true]);
    const byOther = { token: crew.tokens.admin, body: { usersSend: true } };
    expect((await stage.server.call(routeTo('putMailboxSettings', { id: mailboxId }), byOther)).json.error.code).toBe('owners-choice');
    expect(await senders()).toBe(1);
    await owner(stage.server.ownerUrl, `UPDATE mailboxes SET kind = 'person', users_send = false WHERE id = $1`, [mailboxId]);
  });

  test('sends a due email whose writer lost the right meanwhile', async () => {
    const email = await draft({ to: [IDA], subject: 'Right is gone', html: '<p>x</p>' });
    await owner(stage.server.ownerUrl, `UPDATE mailboxes SET state = 'stopped' WHERE id = $1`, [mailboxId]);
    const sent = await rep(routeTo('sendOutgoing', { id: email.id }), { body: { revision: email.revision } });
    expect([sent.status, sent.json.error.code]).toEqual([403, 'not-your-mailbox']);
    await owner(stage.server.ownerUrl, `UPDATE mailboxes SET state = 'running' WHERE id = $1`, [mailboxId]);
    await rep(routeTo('sendOutgoing', { id: email.id }), { body: { revision: email.revision } });
    await owner(stage.server.ownerUrl, `UPDATE mailboxes SET owner_id = $2 WHERE id = $1`, [mailboxId, crew.ids.admin]);
    await owner(stage.server.ownerUrl, 'UPDATE outgoing SET due_at = now() WHERE id = $1', [email.id]);
    await owner(stage.server.ownerUrl, `SELECT pg_notify('fulvet_changes', '{"kind":"work","queue":"outgoing"}')`);
    const refused = await until(
      async () => (await rep(routeTo('getOutgoing', { id: email.id }))).json,
      ({ state }) => state === 'refused',
    );
    expect(refused.problem).toContain('may not send from');
    await owner(stage.server.ownerUrl, `UPDATE mailboxes SET owner_id = $2 WHERE id = $1`, [mailboxId, crew.ids.rep]);
    expect(outside('Right is gone')).toEqual([]);
  });

  test('learns from the preview of accounts that they do not see, or of emails of colleagues that came back', async () => {
    const email = await draft({ to: [IDA, { name: '', address: 'tove@morland.example' }], subject: 'Preview' });
    const warnings = async (): Promise<string[]> =>
      (await rep(routeTo('previewOutgoing', { id: email.id }))).json.warnings.map(({ text }: { text: string }) => text);
    expect(await warnings()).toEqual(['tove@morland.example is at Morland Docks, the others at Harbour Works.']);
    const reach = (recordReach: string) => stage.server.call(routeTo('putWorkspace'), { token: crew.tokens.admin, body: { recordReach } });
    for (const table of ['accounts', 'contacts']) await owner(stage.server.ownerUrl, `UPDATE ${table} SET owner_id = $1`, [crew.ids.other]);
    await reach('owner');
    expect(await warnings()).toEqual(['tove@morland.example is at morland.example, the others at harbour.example.']);
    expect((await rep(routeTo('previewOutgoing', { id: email.id }))).json.records).toEqual([]);
    await reach('all');
    const cameBack = (writer: number) =>
      owner(
        stage.server.ownerUrl,
        `INSERT INTO outgoing (writer_id, mailbox_id, kind, state, "to", message_id) VALUES ($1, $2, 'new', 'bounced', '[{"name":"","address":"ida@harbour.example"}]', $3)`,
        [writer, mailboxId, `back-${writer}`],
      );
    await cameBack(crew.ids.other);
    expect(await warnings()).toHaveLength(1);
    await cameBack(crew.ids.rep);
    expect(await warnings()).toContain('The last email to ida@harbour.example came back. Check the address.');
  });
});
