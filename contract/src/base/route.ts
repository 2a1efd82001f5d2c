import { z } from 'zod';

export const ROLES = ['admin', 'manager', 'rep', 'viewer'] as const;
export type Role = (typeof ROLES)[number];

/** A role in a request. `lead` is what a manager was called before; it is accepted until the next version. */
export const roleInput = z
  .enum([...ROLES, 'lead'])
  .transform((role): Role => (role === 'lead' ? 'manager' : role))
  .describe('`lead` is the earlier name of `manager`, accepted until the next version.');

/** Who may call a route: anyone, or signed-in users of these roles. */
export type Access = 'public' | readonly Role[];

/** One route of the HTTP API. Handlers, the permission test and the OpenAPI document all read this. */
export interface RouteShape {
  method: 'get' | 'post' | 'put' | 'delete';
  /** Below `/api/v1`, parameters as `{name}`. */
  path: string;
  access: Access;
  summary: string;
  params?: z.ZodObject;
  query?: z.ZodObject;
  /** JSON body; `'bytes'` for a raw upload. */
  body?: z.ZodType | 'bytes';
  /** Most bytes of a JSON body; without it {@link PUBLIC_BODY} for public routes, and {@link USUAL_BODY} for the others. */
  maxBody?: number;
  /** JSON response; a media type for anything else. */
  response: z.ZodType | { mediaType: string };
  /** It sends emails in the name of the caller: an access token needs the scope for that. */
  sends?: true;
  /** It computes over all mail or all records: the server answers it beside what others ask. It changes nothing. */
  heavy?: true;
  /** Further error codes that this route answers with. */
  errors?: readonly string[];
}

export const PUBLIC_BODY = 16 * 1024;
export const USUAL_BODY = 512 * 1024;

export const EVERYBODY: readonly Role[] = ROLES;
export const EDITORS: readonly Role[] = ['admin', 'manager', 'rep'];
export const ADMINS: readonly Role[] = ['admin'];
