import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { randomBytes } from 'node:crypto';
import { createServer } from 'node:http';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { addFile, addTo, as, good, make, setAddress, titlesFor, BYTES } from '../../testing/documentTools';
import { routeTo } from '../../testing/routeTo';
import { owner } from '../../testing/testServer';
import { crew, draft, IDA, rep, sendNow, sentFolder, stage } from '../../testing/writingStage';

let stranger: Server;
let strangerUrl = '';
beforeAll(async () => {
  stranger = createServer((_req, res) => res.end('fine'));
  await new Promise<void>((resolve) => stranger.listen(0, '127.0.0.1', resolve));
  strangerUrl = `http://127.0.0.1:${(stranger.address() as AddressInfo).port}`;
});
afterAll(() => void stranger.close());

describe('the address of links', () => {
  test('is kept once it leads to this installation, and not where someone else answers', async () => {
    const document = await make();
    const email = await draft({ to: [IDA] });
    expect((await addTo(email.id, [document.id], 'links')).json.error.code).toBe('no-link-address');
    const elsewhere = await setAddress(strangerUrl);
    expect(elsewhere.json.error).toMatchObject({ code: 'does-not-answer', message: expect.stringContaining('not this installation') });
    expect((await setAddress('http://127.0.0.1:1')).json.error.message).toContain('does not answer');
    expect((await setAddress('ftp://files.example')).status).toBe(422);
    expect((await addTo(email.id, [document.id], 'links')).json.error.code).toBe('no-link-address');
    expect(good(await setAddress(strangerUrl, { unchecked: true }))).toEqual({ address: strangerUrl, answers: false });
    expect((await as(crew.tokens.rep, routeTo('setLinkAddress'), { address: null })).status).toBe(403);
    expect(good(await setAddress(`${stage.server.url}/`))).toEqual({ address: stage.server.url, answers: true });
    expect((await fetch(`${stage.server.url}/d/proof/anything`)).status).toBe(404);
  });
});

describe('a document', () => {
  test('is sent in its newest version that stands, byte for byte', async () => {
    const first = randomBytes(700_000);
    const second = randomBytes(600_000);
    const document = await make({ title: 'Data sheet' }, first);
    good(await addFile(document.id, 'sheet 2 "ü".pdf', second));
    const email = await draft({ to: [IDA], subject: 'Data sheet', html: '<p>Attached.</p>' });
    const attached = good(await addTo(email.id, [document.id], 'files')).outgoing;
    expect(attached.files).toMatchObject([{ name: 'sheet 2 "ü".pdf', size: second.length }]);
    await sendNow(attached);
    const source = Buffer.from(sentFolder().at(-1)?.raw ?? [])
      .toString('latin1')
      .replace(/\r\n/g, '');
    expect(source).toContain(second.toString('base64').slice(1000, 3000));
    const withdrawn = good(await rep(routeTo('withdrawDocumentVersion', { id: document.id, number: 2 }), { body: { withdrawn: true } }));
    expect(withdrawn.current).toMatchObject({ number: 1, size: first.length });
    const { path } = routeTo('getDocumentFile', { id: document.id, number: 1 });
    const file = await fetch(`${stage.server.url}/api/v1${path}`, { headers: { authorization: `Bearer ${crew.tokens.rep}` } });
    expect(Buffer.from(await file.arrayBuffer()).equals(first)).toBe(true);
    good(await rep(routeTo('withdrawDocumentVersion', { id: document.id, number: 1 }), { body: { withdrawn: true } }));
    expect((await addTo(attached.id, [document.id], 'files')).status).not.toBe(200);
    expect(await titlesFor(crew.tokens.rep, { toSend: 'true' })).not.toContain('Data sheet');
    expect(await titlesFor(crew.tokens.rep, { text: 'SHEET ü' })).toEqual(['Data sheet']);
  });

  test('is taken up to its size, counted by what arrives, and not empty', async () => {
    const { id } = await make({ title: 'Sizes' });
    expect((await addFile(id, 'x.pdf', '')).json.error.code).toBe('empty-file');
    expect((await addFile(id, 'x.pdf', Buffer.alloc(20 * 1024 * 1024 + 1))).json.error.code).toBe('too-large');
    const most = good(await addFile(id, 'most.pdf', Buffer.alloc(20 * 1024 * 1024, 7)));
    expect(most.current).toMatchObject({ number: 2, size: 20 * 1024 * 1024 });
    const email = await draft({ to: [IDA] });
    good(await addTo(email.id, [id], 'files'));
    expect((await addTo(email.id, [id], 'files')).json.error.code).toBe('too-large');
    // Said to be short, sent long: what arrives counts.
    const { path } = routeTo('addDocumentVersion', { id });
    const stream = new ReadableStream({
      pull(controller) {
        controller.enqueue(new Uint8Array(1024 * 1024));
      },
    });
    const long = await fetch(`${stage.server.url}/api/v1${path}?name=long.pdf`, {
      method: 'POST',
      headers: { ...BYTES, authorization: `Bearer ${crew.tokens.rep}` },
      body: stream,
      duplex: 'half',
    } as RequestInit).then(
      ({ status }) => status,
      () => 413,
    );
    expect(long).toBe(413);
    expect(good(await rep(routeTo('getDocument', { id }))).versions).toHaveLength(2);
  });

  test('is found by its owner, a team or everyone, and changed by its owner and administrators', async () => {
    await make({ title: 'Mine' });
    expect((await as(crew.tokens.rep, routeTo('createDocument'), { title: 'x', scope: 'all' })).json.error.code).toBe('may-not-share');
    const shared = await make({ title: 'Terms', scope: 'all' }, 'terms', crew.tokens.admin);
    expect(await titlesFor(crew.tokens.other)).toEqual(['Terms']);
    expect(await titlesFor(crew.tokens.rep)).toEqual(expect.arrayContaining(['Mine', 'Terms']));
    expect((await rep(routeTo('removeDocument', { id: shared.id }))).status).toBe(403);
    expect((await addFile(shared.id, 'mine.pdf', 'mine')).status).toBe(403);
    const [mine] = await owner(stage.server.ownerUrl, `SELECT id FROM documents WHERE title = 'Mine'`);
    for (const target of [
      routeTo('getDocument', { id: Number(mine?.id) }),
      routeTo('getDocumentFile', { id: Number(mine?.id), number: 1 }),
    ])
      expect((await as(crew.tokens.admin, target)).status).toBe(404);
    const stale = { title: 'Terms 2', revision: 7 };
    expect((await as(crew.tokens.admin, routeTo('saveDocument', { id: shared.id }), stale)).json.error.code).toBe('changed-meanwhile');
  });

  test('goes along with a template', async () => {
    const document = await make({ title: 'Brochure' });
    const { id } = good(
      await rep(routeTo('createTemplate'), {
        body: { kind: 'template', name: 'With brochure', html: '<p>Hi</p>', documentIds: [document.id, 999_999] },
      }),
    );
    const email = await draft({ to: [IDA] });
    const filled = async (): Promise<unknown> =>
      good(await rep(routeTo('fillTemplate', { id }), { body: { outgoingId: email.id } })).documents;
    expect(await filled()).toEqual([{ id: document.id, title: 'Brochure', isInForce: true }]);
    good(await rep(routeTo('withdrawDocumentVersion', { id: document.id, number: 1 }), { body: { withdrawn: true } }));
    expect(await filled()).toEqual([{ id: document.id, title: 'Brochure', isInForce: false }]);
  });
});

describe('whoever leaves the team', () => {
  test('passes on the texts and documents that they shared, and nothing that they kept for themselves', async () => {
    const { other, rep: heir } = crew.ids;
    for (const scope of ['own', 'all']) {
      await owner(stage.server.ownerUrl, `INSERT INTO templates (kind, owner_id, scope, name) VALUES ('block', $1, $2, 'Left')`, [
        other,
        scope,
      ]);
      await owner(stage.server.ownerUrl, `INSERT INTO documents (owner_id, scope, title) VALUES ($1, $2, 'Left')`, [other, scope]);
    }
    good(await as(crew.tokens.admin, routeTo('deactivateMember', { id: other }), { mailboxesTo: null, recordsTo: heir }));
    for (const [table, title] of [
      ['templates', 'name'],
      ['documents', 'title'],
    ])
      expect(
        await owner(stage.server.ownerUrl, `SELECT scope, owner_id::int FROM ${table} WHERE ${title} = 'Left' ORDER BY scope`),
      ).toEqual([
        { scope: 'all', owner_id: heir },
        { scope: 'own', owner_id: other },
      ]);
  });
});
