import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { call } from './call';
import { ApiFailure, send, setCsrf } from './client';

interface Asked {
  url: string;
  init: RequestInit;
}
const original = globalThis.fetch;
let asked: Asked[] = [];

/** The server of these tests: gives this answer to whatever is asked. */
function answering(answer: () => Response | Promise<Response>): void {
  globalThis.fetch = (url, init = {}) => {
    asked.push({ url: String(url), init });
    return Promise.resolve().then(answer);
  };
}
const json = (status: number, body: unknown): Response => new Response(JSON.stringify(body), { status });
const failure = async (work: Promise<unknown>): Promise<ApiFailure> => {
  const error = await work.then(
    () => null,
    (reason: unknown) => reason,
  );
  if (error instanceof ApiFailure) return error;
  throw new Error(`It did not fail as it should: ${String(error)}`);
};

beforeEach(() => {
  asked = [];
});
afterEach(() => {
  globalThis.fetch = original;
});

describe('a call', () => {
  test('brings the session’s secret and its body as JSON, and gives what was answered', async () => {
    setCsrf('s3cret');
    answering(() => json(200, { emails: 3 }));
    expect(await send('POST', '/repairs', { seal: true })).toEqual({ emails: 3 });
    expect(await send('GET', '/me')).toEqual({ emails: 3 });
    expect(asked.map(({ url, init }) => [url, init.method, init.body, init.headers])).toEqual([
      ['/api/v1/repairs', 'POST', '{"seal":true}', { 'x-fulvet-csrf': 's3cret', 'content-type': 'application/json' }],
      ['/api/v1/me', 'GET', undefined, { 'x-fulvet-csrf': 's3cret' }],
    ]);
  });

  test('that is refused says what the server says, field by field', async () => {
    answering(() => json(422, { error: { code: 'invalid', message: 'The name is empty.', fields: { name: 'is empty' } } }));
    expect(await failure(send('PUT', '/me', {}))).toMatchObject({
      status: 422,
      code: 'invalid',
      message: 'The name is empty.',
      fields: { name: 'is empty' },
    });
  });

  test('that something between answers with a page of its own is told by its number', async () => {
    answering(() => new Response('<h1>Bad gateway</h1>', { status: 502 }));
    expect(await failure(send('GET', '/me'))).toMatchObject({ status: 502, code: 'unknown', message: 'The server answered 502.' });
  });

  test('to a server that is not there says that nothing was changed', async () => {
    answering(() => Promise.reject(new TypeError('fetch failed')));
    const error = await failure(send('DELETE', '/my-mail/sharing-choices/4'));
    expect([error.status, error.code]).toEqual([0, 'no-answer']);
    expect(error.message).toContain('Nothing was changed');
  });

  test('that was given up is no failure of the server', async () => {
    answering(() => Promise.reject(new DOMException('given up', 'AbortError')));
    const stop = new AbortController();
    await expect(send('GET', '/search?text=gauge', undefined, stop.signal)).rejects.toMatchObject({ name: 'AbortError' });
    expect(asked[0]?.init.signal).toBe(stop.signal);
  });
});

describe('a route', () => {
  test('is called by its name: parameters in the path, the rest in the query, what is empty left out', async () => {
    answering(() => json(200, { records: [], total: 0 }));
    await call('listRecords', { kind: 'deal', text: 'outer & inner', stage: '', limit: 100 });
    await call('editRecord', { kind: 'contact', id: 3, body: { values: { title: 'Keeper' } } });
    await call('getDomainHistory', { domain: 'käse/brot.example' });
    expect(asked.map(({ url, init }) => [init.method, url, init.body])).toEqual([
      ['GET', '/api/v1/records/deal?text=outer+%26+inner&limit=100', undefined],
      ['PUT', '/api/v1/records/contact/3', '{"values":{"title":"Keeper"}}'],
      ['GET', '/api/v1/domains/k%C3%A4se%2Fbrot.example/history', undefined],
    ]);
  });

  test('takes no other input than its own', () => {
    const calls = [
      // @ts-expect-error there is no such kind
      () => call('getRecord', { kind: 'boat', id: 3 }),
      // @ts-expect-error an id is missing
      () => call('getRecord', { kind: 'deal' }),
      // @ts-expect-error this route asks for a body
      () => call('createRecord', { kind: 'deal' }),
      // @ts-expect-error nothing is called that
      () => call('getBoat', {}),
    ];
    expect(calls).toHaveLength(4);
  });
});
