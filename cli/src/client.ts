import { requestOf } from '@fulvet/contract';
import { createReadStream } from 'node:fs';
import { Readable } from 'node:stream';
import type { Answer, ApiError, Called, RouteId } from '@fulvet/contract';

/** A failure that is told in one sentence, with the exit code it gives. */
export class CommandError extends Error {
  constructor(
    message: string,
    readonly exitCode = 1,
  ) {
    super(message);
  }
}

/** Speaks to a running server. */
export class Client {
  constructor(
    private readonly url: string,
    private readonly token: string | null,
  ) {}

  /** Calls a route by its name. */
  async call<Id extends RouteId>(id: Id, ...called: Called<Id>): Promise<Answer<Id>> {
    const { method, path, body } = requestOf(id, ...called);
    const response = await this.send(
      method,
      path,
      body === undefined ? {} : { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } },
    );
    return (await response.json()) as Answer<Id>;
  }

  /** A response to be read as it comes. */
  stream(path: string): Promise<Response> {
    return this.send('GET', path, {});
  }

  async upload(path: string, content: ReadableStream<Uint8Array>, method: 'PUT' | 'POST' = 'PUT'): Promise<void> {
    await this.send(method, path, {
      body: content,
      headers: { 'content-type': 'application/octet-stream' },
      duplex: 'half',
    } as RequestInit);
  }

  /** Sends the bytes of a file. @param path with its name, and what else is said of it, in the query */
  uploadFile(path: string, file: string): Promise<void> {
    return this.upload(path, Readable.toWeb(createReadStream(file)) as ReadableStream<Uint8Array>, 'POST');
  }

  private async send(method: string, path: string, init: RequestInit): Promise<Response> {
    const headers = new Headers(init.headers);
    if (this.token) headers.set('authorization', `Bearer ${this.token}`);
    let response: Response;
    try {
      response = await fetch(`${this.url}/api/v1${path}`, { ...init, method, headers });
    } catch (error) {
      const cause =
        error instanceof Error && error.cause instanceof Error ? error.cause.message || (error.cause as NodeJS.ErrnoException).code : '';
      throw new CommandError(
        `The server at ${this.url} does not answer${cause ? ` (${cause})` : ''}. Is it running? Start it with npm start, or set FULVET_URL.`,
      );
    }
    if (response.ok) return response;
    throw await failureOf(response, this.token);
  }
}

async function failureOf(response: Response, token: string | null): Promise<CommandError> {
  const text = await response.text();
  let message = `The server answered ${response.status}.`;
  try {
    message = (JSON.parse(text) as ApiError).error.message;
  } catch {
    // Not ours: a proxy's page, say. The status tells what there is to tell.
  }
  if (response.status === 401 && token === null)
    message = 'FULVET_TOKEN is not set. Create an access token under Team, then: export FULVET_TOKEN=…';
  return new CommandError(message);
}
