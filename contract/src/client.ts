import type { z } from 'zod';
import type { RouteId, routes } from './routes';
import { routeTable } from './routeTable';

type Shape<Id extends RouteId> = (typeof routes)[Id];
/** What is sent as text is given as what it stands for: the number of an id, say. */
type Sent<S extends z.ZodType> = { [Key in keyof z.input<S>]: Key extends keyof z.output<S> ? z.output<S>[Key] : never };
/** A query comes from the address bar as often as from a page: text is taken for what it says, and checked by the server. */
type Asked<S extends z.ZodType> = { [Key in keyof Sent<S>]: Sent<S>[Key] | string | null };
type Params<Id extends RouteId> = Shape<Id> extends { params: infer S } ? (S extends z.ZodType ? Sent<S> : unknown) : unknown;
type Query<Id extends RouteId> = Shape<Id> extends { query: infer S } ? (S extends z.ZodType ? Asked<S> : unknown) : unknown;
type Body<Id extends RouteId> = Shape<Id> extends { body: infer S } ? (S extends z.ZodType ? { body: z.input<S> } : unknown) : unknown;
type Flat<T> = { [Key in keyof T]: T[Key] };

/** What a route is called with: its parameters and query by name, and its `body`. */
export type Input<Id extends RouteId> = Flat<Params<Id> & Query<Id> & Body<Id>>;

/** What a route answers with; nothing where that is no JSON. */
export type Answer<Id extends RouteId> = Shape<Id>['response'] extends z.ZodType ? z.output<Shape<Id>['response']> : undefined;

/** The arguments of a call: the input may be left out where a route needs none. */
export type Called<Id extends RouteId> = Record<never, never> extends Input<Id> ? [input?: Input<Id>] : [input: Input<Id>];

export interface Request {
  method: string;
  /** With the query, below `/api/v1`. */
  path: string;
  body: unknown;
}

/** The request that calls a route. What is undefined, null or empty is left out of the query. */
export function requestOf<Id extends RouteId>(id: Id, ...[input]: Called<Id>): Request {
  const [method = '', route = ''] = routeTable[id].split(' ');
  const { body, ...values } = (input ?? {}) as Record<string, unknown>;
  const query = new URLSearchParams();
  const inPath = new Set<string>();
  const path = route.replace(/\{(\w+)\}/g, (_, name: string) => {
    inPath.add(name);
    return encodeURIComponent(String(values[name]));
  });
  for (const [name, value] of Object.entries(values))
    if (!inPath.has(name) && value !== undefined && value !== null && value !== '') query.set(name, String(value));
  return { method: method.toUpperCase(), path: query.size > 0 ? `${path}?${query}` : path, body };
}
