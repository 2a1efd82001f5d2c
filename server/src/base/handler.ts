import type { RouteId, routes, User } from '@fulvet/contract';
import type { Request, Response } from 'express';
import type { z } from 'zod';
import type { Refusal } from './refusal';
import type { Services } from './services';

type Shape<Id extends RouteId> = (typeof routes)[Id];
type Parsed<T> = T extends z.ZodType ? z.output<T> : Record<string, never>;
type Part<Id extends RouteId, Key extends string> = Shape<Id> extends Record<Key, infer T> ? Parsed<T> : Record<string, never>;
type Answer<Id extends RouteId> = Shape<Id>['response'] extends z.ZodType ? z.input<Shape<Id>['response']> : undefined;
type Caller<Id extends RouteId> = Shape<Id>['access'] extends 'public' ? User | null : User;

/** What a handler gets: everything checked and parsed by the route's shape. */
export interface Call<Id extends RouteId> {
  user: Caller<Id>;
  params: Part<Id, 'params'>;
  query: Part<Id, 'query'>;
  body: Shape<Id> extends { body: 'bytes' } ? never : Part<Id, 'body'>;
  services: Services;
  req: Request;
  res: Response;
}

/** Answers with the JSON that the route promises, or with a refusal; where it promises another media type, it writes to `res` itself. */
export type Handler<Id extends RouteId> = (call: Call<Id>) => Promise<Answer<Id> | Refusal>;

export type Handlers = { [Id in RouteId]: Handler<Id> };
