import { beforeAll, describe, expect, test } from '@jest/globals';
import { randomBytes } from 'node:crypto';
import { connect } from 'node:net';
import type { Socket } from 'node:net';
import { addTo, as, good, linkTo, make, setAddress, statusOf } from '../../testing/documentTools';
import { routeTo } from '../../testing/routeTo';
import { owner } from '../../testing/testServer';
import { crew, draft, IDA, rep, sendNow, stage } from '../../testing/writingStage';
import { forgetEndedLinks, tokenHash } from './links';

beforeAll(async () => {
  good(await setAddress(stage.server.url));
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
