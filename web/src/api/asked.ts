import type { Answer, Called, RouteId } from '@fulvet/contract';
import { queryOptions } from '@tanstack/react-query';
import type { Query } from '@tanstack/react-query';
import { call } from './call';

/** Under which key the answer of a route is kept: the route's name and what it was asked with. */
export const answerKey = <Id extends RouteId>(id: Id, ...[input]: Called<Id>) => [id, input ?? {}] as const;

/** What a query needs to ask a route: its key, and how the answer is got. */
export const asked = <Id extends RouteId>(id: Id, ...called: Called<Id>) =>
  queryOptions({ queryKey: answerKey(id, ...called), queryFn: answerer(id, ...called) });

/** The same, told apart by more than what the route is asked with: asked again when that changes. */
export const askedFor = <Id extends RouteId>(more: readonly unknown[], id: Id, ...called: Called<Id>) =>
  queryOptions({ queryKey: [...answerKey(id, ...called), ...more] as readonly unknown[], queryFn: answerer(id, ...called) });

/** Gets the answer of a route, and gives up when no one waits for it any more. */
function answerer<Id extends RouteId>(id: Id, ...[input]: Called<Id>): (context: { signal: AbortSignal }) => Promise<Answer<Id>> {
  return ({ signal }) => (call as unknown as Caller<Id>)(id, input, signal);
}

type Caller<Id extends RouteId> = (id: Id, input: unknown, signal: AbortSignal) => Promise<Answer<Id>>;

/** All answers but who is signed in: that is known without asking again. */
export const ALL_BUT_SESSION: { predicate: (query: Query) => boolean } = { predicate: ({ queryKey }) => queryKey[0] !== 'getSession' };

/** All answers of these routes, whatever they were asked with: to be asked for again. */
export const answersOf = (...ids: readonly RouteId[]): { predicate: (query: Query) => boolean } => ({
  predicate: ({ queryKey }) => ids.some((id) => id === queryKey[0]),
});
