import { requestOf } from '@fulvet/contract';
import type { Answer, Called, Input, RouteId } from '@fulvet/contract';
import { send } from './client';

/** Calls a route of the API; rejects with an `ApiFailure`. */
export async function call<Id extends RouteId>(
  id: Id,
  ...[input, signal]: Record<never, never> extends Input<Id>
    ? [input?: Input<Id>, signal?: AbortSignal]
    : [input: Input<Id>, signal?: AbortSignal]
): Promise<Answer<Id>> {
  const { method, path, body } = requestOf(id, ...([input] as unknown as Called<Id>));
  return (await send(method, path, body, signal)) as Answer<Id>;
}
