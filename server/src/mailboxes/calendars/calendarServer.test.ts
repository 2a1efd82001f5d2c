import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { IncomingMessage, Server, ServerResponse } from 'node:http';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { Network } from '../../base/network/network';
import { CalendarServer, fetchCalendarFile } from './calendarServer';

/** What a server that means no good answers, by path. */
const ANSWERS: Record<string, (res: ServerResponse) => void> = {
  '/huge': (res) => {
    res.writeHead(207, { 'content-type': 'application/xml' });
    const piece = Buffer.alloc(1024 * 1024, 'a');
    const more = (): void => {
      while (!res.destroyed && res.write(piece));
      if (!res.destroyed) res.once('drain', more);
    };
    more();
  },
  '/garbage': (res) =>
    res.writeHead(207, { 'content-type': 'application/xml' }).end('<d:multistatus xmlns:d="DAV:"><d:response><d:href>&#xZZ;<'),
  '/bomb': (res) =>
    res
      .writeHead(207, { 'content-type': 'application/xml' })
      .end(
        `<?xml version="1.0"?><!DOCTYPE x [${Array.from({ length: 20 }, (_, n) => `<!ENTITY e${n + 1} "${`&e${n};`.repeat(20)}">`).join('')}<!ENTITY e0 "aaaaaaaaaa">]><d:multistatus xmlns:d="DAV:"><d:response><d:href>&e20;</d:href></d:response></d:multistatus>`,
      ),
  '/deep': (res) => res.writeHead(207, { 'content-type': 'application/xml' }).end('<a>'.repeat(200_000)),
  '/short': (res) => res.writeHead(207, { 'content-type': 'application/xml' }).end('<d:multistatus xmlns:d="DAV:"><d:response'),
  '/empty': (res) => res.writeHead(207, { 'content-type': 'application/xml' }).end('<d:multistatus xmlns:d="DAV:"/>'),
  '/page': (res) => res.writeHead(200, { 'content-type': 'text/html' }).end('<html>Welcome</html>'),
  '/round': (res) => res.writeHead(302, { location: '/round' }).end(),
  '/away': (res) => res.writeHead(302, { location: 'file:///etc/passwd' }).end(),
  '/busy': (res) => res.writeHead(503).end(),
  '/closed': (res) => res.writeHead(401).end(),
  '/cut': (res) => {
    res.writeHead(207, { 'content-type': 'application/xml', 'content-length': '1000' });
    res.write('<d:multi');
    setImmediate(() => res.destroy());
  },
};

let server: Server;
let base: string;
const network = new Network({ privateHosts: true });

beforeAll(async () => {
  server = createServer((req: IncomingMessage, res) => {
    const answer = ANSWERS[req.url?.split('?')[0] ?? ''];
    if (answer) answer(res);
    else res.writeHead(404).end();
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => {
  server.closeAllConnections();
  server.close();
});

const window = { from: 0, to: 86_400_000 };
const listed = (path: string): Promise<unknown> =>
  new CalendarServer(network, { url: base, userName: 'x', secret: { password: 'y' } })
    .list(base + path, window)
    .catch((error: unknown) => error);

test.each([
  ['/huge', { code: 'too-large' }],
  ['/closed', { code: 'sign-in-refused' }],
  ['/busy', { code: 'throttled' }],
  ['/cut', { code: 'no-answer' }],
  ['/nothing', { code: 'not-found' }],
])('a calendar at %s fails in a way that is known', async (path, failure) => {
  expect(await listed(path)).toMatchObject(failure);
});

test.each(['/garbage', '/bomb', '/deep', '/page', '/short'])(
  'what is no list of events, at %s, is never taken for an empty one, and costs little',
  async (path) => {
    const start = performance.now();
    expect(await listed(path)).toMatchObject({ code: 'not-a-calendar' });
    // Only tells an end from none.
    expect(performance.now() - start).toBeLessThan(20_000);
  },
);

test('a calendar without events is one', async () => {
  expect(await listed('/empty')).toEqual([]);
});

test.each([
  ['/round', { code: 'not-found' }],
  ['/away', { code: 'not-secure' }],
  ['/huge', { code: 'too-large' }],
  ['/nothing', { code: 'not-found' }],
])('a file at %s fails in a way that is known', async (path, failure) => {
  await expect(fetchCalendarFile(network, base + path, '')).rejects.toMatchObject(failure);
});

test('a password never goes over an open connection, nor into a private network, where that is not allowed', async () => {
  const open = new Network({ privateHosts: false });
  await expect(fetchCalendarFile(open, `${base}/page`, '')).rejects.toMatchObject({ code: 'not-secure' });
  await expect(fetchCalendarFile(open, 'https://127.0.0.1/a.ics', '')).rejects.toMatchObject({ code: 'host-refused' });
  const there = new CalendarServer(open, { url: 'https://169.254.169.254', userName: 'x', secret: { password: 'y' } });
  await expect(there.calendars()).rejects.toMatchObject({ code: 'host-refused' });
});
