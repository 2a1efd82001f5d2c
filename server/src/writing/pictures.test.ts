import { describe, expect, test } from '@jest/globals';
import { as, BYTES, good } from '../testing/documentTools';
import { routeTo } from '../testing/routeTo';
import type { Answer } from '../testing/testServer';
import { contentOf, crew, draft, IDA, outside, rep, sendNow, stage } from '../testing/writingStage';
import { pictureType, withPictures } from './pictures';

const PNG = Buffer.from('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==', 'base64');

async function addPicture(id: number, bytes: Uint8Array, type = 'image/png'): Promise<Answer> {
  const { method, path } = routeTo('attachToOutgoing', { id });
  const query = `?name=gauge.png&type=${encodeURIComponent(type)}&inline=true`;
  return stage.server.call({ method, path: `${path}${query}` }, { token: crew.tokens.rep, bytes, headers: BYTES });
}
const newest = (answer: Answer): number => Math.max(...good(answer).files.map(({ id }: { id: number }) => id));
const place = (id: number, file: number): string => `/api/v1/outgoing/${id}/files/${file}`;

describe('a picture in the text', () => {
  test('is seen by its writer alone, sent with the text, and shown where the email is filed; what the text shows no more stays', async () => {
    const { id } = await draft({ to: [IDA], subject: 'Pictured' });
    const [shown, other] = [newest(await addPicture(id, PNG)), newest(await addPicture(id, Buffer.concat([PNG, Buffer.from('other')])))];
    const seen = await fetch(`${stage.server.url}${place(id, shown)}`, { headers: { authorization: `Bearer ${crew.tokens.rep}` } });
    expect(Buffer.from(await seen.arrayBuffer()).equals(PNG)).toBe(true);
    expect(Object.fromEntries(seen.headers)).toMatchObject({
      'content-type': 'image/png',
      'x-content-type-options': 'nosniff',
      'content-security-policy': expect.stringContaining('sandbox'),
    });
    expect((await as(crew.tokens.manager, routeTo('getOutgoingPicture', { id, file: shown }))).status).toBe(404);
    const now = good(await rep(routeTo('getOutgoing', { id })));
    const html = `<p>The gauge: <img src="${place(id, shown)}" alt="Gauge at quay 4" onerror="x()"> as of today</p><p><img src="https://spy.example/x.png"><img src="${place(id + 1, shown)}"><img src="cid:x"></p>`;
    const saved = good(await rep(routeTo('saveOutgoing', { id }), { body: contentOf(now, { html }) }));
    expect(saved.html).toBe(`<p>The gauge: <img src="${place(id, shown)}" alt="Gauge at quay 4" /> as of today</p><p></p>`);
    expect(saved.files.map((file: { id: number; inline: boolean }) => [file.id, file.inline])).toEqual([
      [shown, true],
      [other, true],
    ]);
    const { emailId } = await sendNow(saved);
    const source = outside('Pictured')[0]?.source ?? '';
    expect(source).toContain('multipart/related');
    const [, contentId = ''] = /Content-ID:\s+<([^>]+)>/i.exec(source) ?? [];
    expect(source.replace(/=\r\n/g, '').replace(/=3D/g, '=')).toContain(`<img src="cid:${contentId}" alt="Gauge at quay 4" />`);
    expect(source.match(/Content-Type: image\/png/g)).toHaveLength(1);
    expect(source).not.toContain('/api/v1');
    expect(source).toContain('The gauge: [Gauge at quay 4] as of today');
    const filed = await rep(routeTo('getEmailHtml', { id: emailId }));
    expect(filed.text).toContain(`src="data:image/png;base64,${PNG.toString('base64')}"`);
  });

  test('is what its bytes say, whatever it is called', async () => {
    const { id } = await draft({ to: [IDA], subject: 'Not pictured' });
    for (const bytes of [Buffer.from('<svg onload="x()"/>'), Buffer.from('%PDF-1.7'), Buffer.from('RIFF1234WAVE'), Buffer.alloc(0)])
      expect((await addPicture(id, bytes)).json.error.code).toBe('not-a-picture');
    const [file] = good(await addPicture(id, Buffer.from('GIF89a…'), 'text/html')).files;
    expect(file).toMatchObject({ type: 'image/gif', inline: true });
    expect(pictureType(Buffer.from([0xff, 0xd8, 0xff, 0xe0]))).toBe('image/jpeg');
    expect(pictureType(Buffer.from('RIFF\n\n\n\nWEBPVP8 '))).toBe('image/webp');
    // A file beside the text is no picture of it.
    const { method, path } = routeTo('attachToOutgoing', { id });
    const beside = newest(
      await stage.server.call({ method, path: `${path}?name=a.png` }, { token: crew.tokens.rep, bytes: PNG, headers: BYTES }),
    );
    expect((await rep(routeTo('getOutgoingPicture', { id, file: beside }))).status).toBe(404);
  });

  test('that is gone leaves nothing in the text', () => {
    const html = `<p>a<img src="${place(1, 2)}" alt="x" />b</p>`;
    expect(withPictures(1, html, [], 'm@x.example')).toEqual({ html: '<p>ab</p>', files: [] });
    const file = { id: 2, name: 'a.png', type: 'image/png', content: PNG };
    expect(withPictures(1, html, [{ ...file, inline: false }], 'm@x.example')).toEqual({
      html: '<p>ab</p>',
      files: [{ name: 'a.png', type: 'image/png', content: PNG }],
    });
  });
});
