import type { ApiError } from '@fulvet/contract';
import { client as words } from './words';

/** A failure that the server explained. */
export class ApiFailure extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly fields: Record<string, string>,
  ) {
    super(message);
  }
}

let csrf = '';

/** The session's secret that every change has to bring along. */
export function setCsrf(value: string): void {
  csrf = value;
}

/** Sends JSON to a path of the API and gives what is answered; rejects with {@link ApiFailure}. */
export async function send(method: string, path: string, body?: unknown, signal?: AbortSignal): Promise<unknown> {
  const response = await request(method, path, body === undefined ? undefined : JSON.stringify(body), signal);
  return response.json();
}

/** Sends a small file to a path of the API and gives what is answered; rejects with {@link ApiFailure}. */
export async function sendFile(path: string, file: Blob): Promise<unknown> {
  return (await request('POST', path, file)).json();
}

async function request(method: string, path: string, body: string | Blob | undefined, signal?: AbortSignal): Promise<Response> {
  const headers: Record<string, string> = { 'x-fulvet-csrf': csrf };
  if (body !== undefined) headers['content-type'] = typeof body === 'string' ? 'application/json' : 'application/octet-stream';
  let response: Response;
  try {
    response = await fetch(`/api/v1${path}`, { method, headers, ...(body === undefined ? {} : { body }), ...(signal ? { signal } : {}) });
  } catch (error) {
    if (error instanceof DOMException && error.name === 'AbortError') throw error;
    throw new ApiFailure(0, 'no-answer', words.noAnswer, {});
  }
  if (response.ok) return response;
  const told = (await response.json().catch(() => null)) as ApiError | null;
  throw new ApiFailure(
    response.status,
    told?.error.code ?? 'unknown',
    told?.error.message ?? words.answered(response.status),
    told?.error.fields ?? {},
  );
}

/** Sends a file with progress; `stop` ends it. */
export function upload(path: string, file: Blob, onProgress: (sent: number) => void): { done: Promise<void>; stop: () => void } {
  const sending = new XMLHttpRequest();
  const done = new Promise<void>((resolve, reject) => {
    sending.open('PUT', `/api/v1${path}`);
    sending.setRequestHeader('content-type', 'application/octet-stream');
    sending.setRequestHeader('x-fulvet-csrf', csrf);
    sending.upload.onprogress = (event) => onProgress(event.loaded);
    sending.onload = () => {
      if (sending.status < 400) return resolve();
      const told = parsed(sending.responseText);
      reject(new ApiFailure(sending.status, told?.error.code ?? 'unknown', told?.error.message ?? words.answered(sending.status), {}));
    };
    sending.onerror = () => reject(new ApiFailure(0, 'no-answer', words.brokeWhileSending, {}));
    sending.onabort = () => reject(new ApiFailure(0, 'stopped', words.stopped, {}));
    sending.send(file);
  });
  return { done, stop: () => sending.abort() };
}

function parsed(text: string): ApiError | null {
  try {
    return JSON.parse(text) as ApiError;
  } catch {
    return null;
  }
}

/** A query string of what is set. */
export function queryOf(values: Record<string, string | number | undefined | null>): string {
  const set = new URLSearchParams();
  for (const [name, value] of Object.entries(values))
    if (value !== undefined && value !== null && value !== '') set.set(name, String(value));
  const text = set.toString();
  return text ? `?${text}` : '';
}
