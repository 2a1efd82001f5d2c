import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { createServer } from 'node:http';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { guardedFetch } from './guardedFetch';
import { Network } from './network';

let service: Server;
let asked: string[] = [];
const url = (host: string, path = '/'): string => `http://${host}:${(service.address() as AddressInfo).port}${path}`;

beforeAll(async () => {
  service = createServer((request, answer) => {
    asked.push(`${request.method} ${request.url} ${request.headers.host?.split(':')[0]}`);
    if (request.url === '/long') answer.end(Buffer.alloc(2_000_000));
    else if (request.url === '/elsewhere') answer.writeHead(302, { location: 'http://127.0.0.1/secret' }).end();
    else request.on('data', (part: Buffer) => answer.write(part)).on('end', () => answer.end());
  });
  await new Promise<void>((resolve) => service.listen(0, '127.0.0.1', resolve));
});
afterAll(() => new Promise((resolve) => service.close(resolve)));

test('a service that is allowed is asked, at the address that its name had', async () => {
  asked = [];
  const answer = await guardedFetch(new Network({ privateHosts: true }))(url('localhost'), {
    method: 'POST',
    headers: { 'content-type': 'text/plain' },
    body: new URLSearchParams({ code: 'a b' }),
  });
  expect([answer.status, await answer.text(), asked]).toEqual([200, 'code=a+b', ['POST / localhost']]);
});

test.each(['localhost', '127.0.0.1', '[::1]', '169.254.169.254'])(
  '%s is never asked where private addresses are not allowed',
  async (host) => {
    asked = [];
    const get = guardedFetch(new Network({ privateHosts: false }));
    await expect(get(url(host), { method: 'GET', headers: {} })).rejects.toThrow();
    expect(asked).toEqual([]);
  },
);

test('a long answer is refused, and a redirection not followed', async () => {
  const get = guardedFetch(new Network({ privateHosts: true }));
  await expect(get(url('localhost', '/long'), { method: 'GET', headers: {} })).rejects.toThrow('longer than');
  expect((await get(url('localhost', '/elsewhere'), { method: 'GET', headers: {} })).status).toBe(302);
});
