import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { ROLES } from '@fulvet/contract';
import type { RouteId, RouteShape, TokenScope, User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Request, RequestHandler } from 'express';
import { timingSafeEqual } from 'node:crypto';
import { isRefusal, Refusal } from '../base/refusal';
import type { Services } from '../base/services';
import { answerRefusal } from './answerRefusal';
import { lacksFactor } from '../team/signIn/session';
import { userOfToken } from '../team/signIn/tokens';

export function bearerToken(req: Request): string | null {
  return /^Bearer\s+(\S+)$/i.exec(req.get('authorization') ?? '')?.[1] ?? null;
}

/** Who calls, once it is known that they may: asked before anything of the body is read. */
export interface Admitted {
  user: User | null;
  /** Whose mail they may read now by an emergency reading. */
  emergencyOwners: readonly number[];
}

/** Lets on who may call a route; the others get the refusal as their answer. */
export function admit(id: RouteId, route: RouteShape, services: Services): RequestHandler {
  return (req, res, next) => {
    const work = async (): Promise<void> => {
      const admitted = await admission(req, id, route, services);
      if (isRefusal(admitted)) return answerRefusal(res, admitted);
      Object.assign(res.locals, admitted);
      next();
    };
    work().catch(next);
  };
}

async function admission(req: Request, id: RouteId, route: RouteShape, services: Services): Promise<Admitted | Refusal> {
  const caller = await callerOf(req, services);
  if (isRefusal(caller)) return caller;
  const { user, scopes, emergencyOwners } = caller;
  const refused =
    (route.access === 'public' ? null : requireRole(user, route.access)) ??
    (scopes ? requireScope(route, scopes) : user && !WITHOUT_FACTOR.has(id) ? await requireFactor(req, services, user) : null) ??
    (route.method === 'get' ? null : requireOwnPage(req, user));
  return refused ?? { user, emergencyOwners };
}

const userRow = z.object({
  id: z.number(),
  email: z.string(),
  name: z.string(),
  role: z.enum(ROLES),
  emergency_owners: z.array(z.number()),
});

/** Who calls: by session, or by a token with what it may do. */
async function callerOf(req: Request, services: Services): Promise<(Admitted & { scopes: readonly TokenScope[] | null }) | Refusal> {
  const token = bearerToken(req);
  const known = token === null ? null : await userOfToken(services.database.app, token);
  const userId = token === null ? (req.session as typeof req.session | undefined)?.userId : known?.userId;
  if (token !== null && known === null)
    return new Refusal(
      'signedOut',
      'bad-token',
      'The access token is not valid, has ended or was revoked. Create a new one under Your account.',
    );
  if (userId === undefined) return { user: null, scopes: null, emergencyOwners: [] };
  const rows = await rowsOf(
    services.database.app,
    userRow,
    sql`SELECT id, email, name, role, fulvet_emergency_owners_of(id) AS emergency_owners FROM users WHERE id = ${userId} AND active`,
  );
  const { emergency_owners: emergencyOwners = [], ...user } = rows[0] ?? {};
  return { user: 'id' in user ? user : null, scopes: known?.scopes ?? null, emergencyOwners };
}

/** What may be called before a second factor that the workspace needs is set up. */
const WITHOUT_FACTOR: ReadonlySet<RouteId> = new Set<RouteId>([
  'getSession',
  'signIn',
  'signOut',
  'giveCode',
  'openApi',
  'getSecondFactor',
  'beginSecondFactor',
  'confirmSecondFactor',
]);

async function requireFactor(req: Request, services: Services, user: User): Promise<Refusal | null> {
  if (await lacksFactor(services, user.id, req.session.viaProvider ?? false))
    return new Refusal('forbidden', 'second-factor-needed', 'The workspace needs a second factor of every member. Set yours up first.');
  return null;
}

/** A token does what its scopes name, however much its member may. */
function requireScope(route: RouteShape, scopes: readonly TokenScope[]): Refusal | null {
  const needed: TokenScope[] = [route.method === 'get' ? 'read' : 'write'];
  if (route.access !== 'public' && route.access.length === 1 && route.access[0] === 'admin') needed.push('admin');
  if (route.sends) needed.push('send');
  const missing = needed.filter((value) => !scopes.includes(value) && !(value === 'read' && scopes.includes('write')));
  if (missing.length > 0)
    return new Refusal(
      'forbidden',
      'token-scope',
      `This access token is not for that: it lacks “${missing.join('”, “')}”. Create one with that scope.`,
    );
  return null;
}

function requireRole(user: User | null, roles: readonly string[]): Refusal | null {
  if (!user) return new Refusal('signedOut', 'not-signed-in', 'Sign in first, or send an access token.');
  if (!roles.includes(user.role))
    return new Refusal('forbidden', 'not-allowed', `This is for ${roles.join(', ')}; you are signed in as ${user.role}.`);
  return null;
}

/** A change by cookie must come from our own pages: they alone know the session's secret, and no other origin is taken. */
function requireOwnPage(req: Request, user: User | null): Refusal | null {
  if (bearerToken(req) !== null) return null;
  const origin = req.get('origin');
  if (origin !== undefined && origin.replace(/^https?:\/\//, '') !== req.get('host'))
    return new Refusal('forbidden', 'other-origin', 'Changes are taken from Fulvet’s own pages only.');
  if (user === null) return null;
  const sent = Buffer.from(req.get('x-fulvet-csrf') ?? '');
  const expected = Buffer.from(req.session.csrf ?? '');
  if (expected.length === 0 || sent.length !== expected.length || !timingSafeEqual(sent, expected))
    return new Refusal('forbidden', 'no-csrf', 'The page is out of date. Load it again; nothing was changed.');
  return null;
}
