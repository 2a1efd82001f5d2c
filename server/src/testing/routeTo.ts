import { requestOf } from '@fulvet/contract';
import type { RouteId, routes } from '@fulvet/contract';
import type { z } from 'zod';

/** Where a request goes. */
export interface Destination {
  method: string;
  /** With the query, below `/api/v1`. */
  path: string;
}

type NamesOf<Shape, Part extends 'params' | 'query'> =
  Shape extends Record<Part, infer S> ? (S extends z.ZodType ? keyof z.input<S> : never) : never;
type Named<Names extends PropertyKey> = Partial<Record<Names, unknown>>;

/** The parameters and the query of a route by their names. Values are not checked: a test may ask for what does not fit. */
export type Values<Id extends RouteId> = Named<NamesOf<(typeof routes)[Id], 'params'> | NamesOf<(typeof routes)[Id], 'query'>>;

/** The request that calls a route of the contract. */
export function routeTo<Id extends RouteId>(id: Id, values?: Values<Id>): Destination {
  const { method, path } = (requestOf as (id: Id, values?: Values<Id>) => Destination)(id, values);
  return { method, path };
}
