import { request as plainRequest } from 'node:http';
import type { IncomingMessage } from 'node:http';
import { request } from 'node:https';
import { isIP } from 'node:net';
import type { Network } from './network';

/** More than such services answer. */
const LONGEST = 1024 * 1024;

export class AnswerTooLong extends Error {
  constructor(longest: number) {
    super(`The answer is longer than ${longest} bytes.`);
  }
}

/** What is asked of a service. */
export interface GuardedRequest {
  method: string;
  headers: Record<string, string>;
  body?: string | URLSearchParams | Uint8Array | ArrayBuffer | ReadableStream | null | undefined;
  signal?: AbortSignal | undefined;
}

/**
 * A `fetch` that leads to the open internet alone: each name is resolved once, its address checked, and that address connected to. Redirections are not
 * followed; a long answer is refused.
 *
 * @param longest bytes that an answer may have
 * @throws {MailFailure} name-unknown or host-refused
 * @throws {AnswerTooLong}
 */
export function guardedFetch(network: Network, longest = LONGEST): (url: string, asked: GuardedRequest) => Promise<Response> {
  return async (url, { method, headers, body, signal }) => {
    const { protocol, hostname } = new URL(url);
    const host = hostname.replace(/^\[|\]$/g, '');
    const address = await network.publicAddressOf(host);
    const family = isIP(address);
    return new Promise((resolve, reject) => {
      const send = protocol === 'https:' ? request : plainRequest;
      const asked = send(
        url,
        {
          method,
          headers,
          ...(signal ? { signal } : {}),
          lookup: (_name, options, found) => (options.all ? found(null, [{ address, family }]) : found(null, address, family)),
        },
        (answer) => void read(answer, longest).then(resolve, reject),
      );
      asked.on('error', reject);
      asked.end(body === null || body === undefined ? undefined : body instanceof Uint8Array ? body : String(body as string));
    });
  };
}

async function read(answer: IncomingMessage, longest: number): Promise<Response> {
  const parts: Uint8Array[] = [];
  let length = 0;
  for await (const part of answer as AsyncIterable<Uint8Array>) {
    length += part.length;
    if (length > longest) {
      answer.destroy();
      throw new AnswerTooLong(longest);
    }
    parts.push(part);
  }
  const headers = Object.entries(answer.headers).flatMap(([name, value]) =>
    value === undefined ? [] : [[name, Array.isArray(value) ? value.join(', ') : value] as [string, string]],
  );
  const status = answer.statusCode ?? 502;
  return new Response(status === 204 || status === 304 ? null : Buffer.concat(parts), { status, headers });
}
