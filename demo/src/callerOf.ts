import { requestOf } from '@fulvet/contract';
import type { Answer, Called, RouteId } from '@fulvet/contract';

/** Calls routes of the running server. */
export type Call = <Id extends RouteId>(id: Id, ...called: Called<Id>) => Promise<Answer<Id>>;

/** @throws what the server says where it refuses */
export function callerOf(url: string, token: string): Call {
  return async (id, ...called) => {
    const { method, path, body } = requestOf(id, ...called);
    const response = await fetch(`${url}/api/v1${path}`, {
      method,
      headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    const text = await response.text();
    if (!response.ok) throw new Error(`${method} ${path}: ${text}`);
    return JSON.parse(text) as never;
  };
}
