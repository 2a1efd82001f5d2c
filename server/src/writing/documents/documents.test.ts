import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { randomBytes } from 'node:crypto';
import { createServer } from 'node:http';
import type { Server } from 'node:http';
import { connect } from 'node:net';
import type { AddressInfo, Socket } from 'node:net';
import { routeTo } from '../../testing/routeTo';
import type { Answer } from '../../testing/testServer';
import { owner } from '../../testing/testServer';
import { forgetEndedLinks, tokenHash } from './links';
import { crew, draft, IDA, rep, sendNow, sentFolder, stage } from '../../testing/writingStage';

const as = (token: string, target: ReturnType<typeof routeTo>, body?: unknown): Promise<Answer> =>
  stage.server.call(target, { token, ...(body === undefined ? {} : { body }) });
const good = ({ status, json, text }: Answer): Answer['json'] => {
  if (status !== 200) throw new Error(`${status} ${text}`);
  return json;
};
const BYTES = { 'content-type': 'application/octet-stream' };
const addFile = (id: number, name: string, bytes: Uint8Array | string, token = crew.tokens.rep): Promise<Answer> => {
  const { method, path } = routeTo('addDocumentVersion', { id });
  return stage.server.call(
    { method, path: `${path}?name=${encodeURIComponent(name)}&type=application%2Fpdf` },
    { token, bytes, headers: BYTES },
  );
};
const make = async (content: object = {}, bytes: Uint8Array | string = 'prices', token = crew.tokens.rep): Promise<Answer['json']> => {
  const { id } = good(await as(token, routeTo('createDocument'), { title: 'Price list', topic: 'Prices', ...content }));
  return good(await addFile(id, 'prices.pdf', bytes, token));
};
const titlesFor = async (token: string, query: Record<string, unknown> = {}): Promise<string[]> =>
  good(await as(token, routeTo('listDocuments', query))).documents.map(({ title }: { title: string }) => title);
const setAddress = (address: string | null, more: object = {}): Promise<Answer> =>
  as(crew.tokens.admin, routeTo('setLinkAddress'), { address, ...more });
const addTo = (id: number, documentIds: number[], how: 'files' | 'links'): Promise<Answer> =>
  rep(routeTo('addDocuments', { id }), { body: { documentIds, how } });
const linkTo = async (document: { id: number }, email?: Answer['json']): Promise<string> => {
  const { links } = good(await addTo((email ?? (await draft({ to: [IDA] }))).id, [document.id], 'links'));
  return links[0].url;
};
const statusOf = async (url: string): Promise<number> => {
  const answer = await fetch(url);
  await answer.arrayBuffer();
  return answer.status;
};

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

describe('a link', () => {
  test('gives the file to whoever has it, as a download that no browser runs', async () => {
    const bytes = randomBytes(600_001);
    const document = await make({ title: 'Linked' }, bytes);
    const url = await linkTo(document);
    const answer = await fetch(url);
    expect(Buffer.from(await answer.arrayBuffer()).equals(bytes)).toBe(true);
    expect(Object.fromEntries(answer.headers)).toMatchObject({
      'content-type': 'application/octet-stream',
      'content-disposition': "attachment; filename*=UTF-8''prices.pdf",
      'content-security-policy': expect.stringContaining('sandbox'),
      'cache-control': 'private, no-store',
      'referrer-policy': 'no-referrer',
      'x-content-type-options': 'nosniff',
    });
    const head = await fetch(url, { method: 'HEAD' });
    expect([head.status, head.headers.get('content-length')]).toEqual([200, String(bytes.length)]);
    const token = url.slice(-43);
    expect(token).toMatch(/^[\w-]{43}$/);
    const all = await owner(stage.server.ownerUrl, `SELECT row_to_json(l)::text AS row FROM document_links l`);
    expect(JSON.stringify(all)).not.toContain(token);
    for (const wrong of [
      `${url}x`,
      url.slice(0, -1),
      `${stage.server.url}/d/${'a'.repeat(43)}`,
      `${stage.server.url}/d/`,
      `${stage.server.url}/d/..%2fx`,
    ])
      expect([wrong, await statusOf(wrong)]).toEqual([wrong, 404]);
    expect((await fetch(url, { method: 'POST' })).status).toBe(404);
  });

  test('ends at once when it, its version or its document is withdrawn or over, and answers again when that is undone', async () => {
    const document = await make({ title: 'Ends' });
    const url = await linkTo(document);
    const { links } = good(await rep(routeTo('listDocumentLinks', { id: document.id })));
    expect(links).toMatchObject([{ version: 1, recipients: [IDA], isOpen: true }]);
    const linkId = links[0].id;
    const states: number[] = [];
    for (const withdrawn of [true, false]) {
      good(await rep(routeTo('withdrawDocumentLink', { id: linkId }), { body: { withdrawn } }));
      states.push(await statusOf(url));
    }
    for (const withdrawn of [true, false]) {
      good(await rep(routeTo('withdrawDocumentVersion', { id: document.id, number: 1 }), { body: { withdrawn } }));
      states.push(await statusOf(url));
    }
    good(await rep(routeTo('removeDocument', { id: document.id })));
    states.push(await statusOf(url));
    good(await rep(routeTo('restoreDocument', { id: document.id })));
    states.push(await statusOf(url));
    const dated = async (validUntil: string | null): Promise<void> => {
      const { revision } = good(await rep(routeTo('getDocument', { id: document.id })));
      good(await rep(routeTo('saveDocument', { id: document.id }), { body: { title: 'Ends', validUntil, revision } }));
    };
    await dated('2020-01-01');
    states.push(await statusOf(url));
    const email = await draft({ to: [IDA], subject: 'x', html: `<p><a href="${url}">Ends</a></p>` });
    expect((await addTo(email.id, [document.id], 'links')).json.error.code).toBe('not-in-force');
    const { warnings } = good(await rep(routeTo('previewOutgoing', { id: email.id })));
    expect(warnings).toEqual([{ code: 'ended link', text: 'The link to Ends has ended. Insert a new one.' }]);
    await dated(null);
    states.push(await statusOf(url));
    await owner(stage.server.ownerUrl, 'UPDATE document_links SET ends_at = now() WHERE id = $1', [linkId]);
    states.push(await statusOf(url));
    expect(states).toEqual([410, 200, 410, 200, 410, 200, 410, 200, 410]);
    expect(await (await fetch(url)).text()).toContain('This link has ended');
  });

  test('goes to the recipients of the email as it was sent; its recipients are known to its writer alone', async () => {
    const document = await make({ title: 'Sent', scope: 'all' }, 'sent', crew.tokens.admin);
    const email = await draft({ to: [IDA], subject: 'Two links' });
    const [kept, left] = [await linkTo(document, email), await linkTo(document, email)];
    const tove = { name: 'Tove Lund', address: 'tove@morland.example' };
    const { id, revision } = good(
      await rep(routeTo('saveOutgoing', { id: email.id }), {
        body: {
          revision: email.revision,
          mailboxId: email.mailboxId,
          to: [tove],
          subject: 'Two links',
          html: `<p><a href="${kept}">Sent</a></p>`,
          filing: { how: 'rules' },
        },
      }),
    );
    await sendNow({ id, revision });
    expect([await statusOf(kept), await statusOf(left)]).toEqual([200, 404]);
    const linksFor = async (token: string): Promise<unknown> =>
      good(await as(token, routeTo('listDocumentLinks', { id: document.id }))).links;
    expect(await linksFor(crew.tokens.rep)).toMatchObject([{ recipients: [tove] }]);
    expect(await linksFor(crew.tokens.admin)).toEqual([]);
    const [link] = (await linksFor(crew.tokens.rep)) as { id: number }[];
    expect((await as(crew.tokens.admin, routeTo('withdrawDocumentLink', { id: link?.id ?? 0 }), { withdrawn: true })).status).toBe(404);
    // Taken off the list, the sent email's link goes on; that of a discarded draft does not.
    good(await rep(routeTo('discardOutgoing', { id })));
    const other = await draft({ to: [IDA] });
    const discarded = await linkTo(document, other);
    good(await rep(routeTo('discardOutgoing', { id: other.id })));
    expect([await statusOf(kept), await statusOf(discarded)]).toEqual([200, 404]);
    // An administrator ends links that others sent by the version.
    good(await as(crew.tokens.admin, routeTo('withdrawDocumentVersion', { id: document.id, number: 1 }), { withdrawn: true }));
    expect(await statusOf(kept)).toBe(410);
  });

  test('says for a while that it has ended, and then to whom it went is forgotten', async () => {
    const url = await linkTo(await make({ title: 'Old' }));
    const endedFor = (days: number): Promise<unknown> =>
      owner(stage.server.ownerUrl, `UPDATE document_links SET ends_at = now() - make_interval(days => $1) WHERE token_hash = $2`, [
        days,
        tokenHash(url.slice(-43)),
      ]);
    const states: number[] = [];
    for (const days of [89, 91]) {
      await endedFor(days);
      await forgetEndedLinks(stage.server.services.database.worker);
      states.push(await statusOf(url));
    }
    expect(states).toEqual([410, 404]);
  });

  test('that many leave unread at once neither holds the server nor grows it', async () => {
    const document = await make({ title: 'Large' }, Buffer.alloc(20 * 1024 * 1024, 1));
    const { pathname, port } = new URL(await linkTo(document));
    const before = process.memoryUsage().rss;
    const sockets: Socket[] = [];
    for (let count = 0; count < 30; count += 1) {
      const socket = connect(Number(port), '127.0.0.1');
      socket.write(`GET ${pathname} HTTP/1.1\r\nHost: x\r\n\r\n`);
      await new Promise((resolve) => socket.once('readable', resolve));
      sockets.push(socket);
    }
    const busy = await fetch(`${stage.server.url}${pathname}`);
    expect([busy.status, busy.headers.get('retry-after')]).toEqual([503, '10']);
    expect(await busy.text()).toContain('Too many downloads at once');
    expect((await rep(routeTo('getDocument', { id: document.id }))).status).toBe(200);
    expect(process.memoryUsage().rss - before).toBeLessThan(300 * 1024 * 1024);
    for (const socket of sockets) socket.destroy();
  });
});
