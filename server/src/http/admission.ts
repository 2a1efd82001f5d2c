import type { RouteId, RouteShape, TokenScope, User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Request, RequestHandler } from 'express';
import { timingSafeEqual } from 'node:crypto';
import { Refusal } from '../base/refusal';
import type { Services } from '../base/services';
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

export function admit(id: RouteId, route: RouteShape, services: Services): RequestHandler {
  return (req, res, next) => {
    const work = async (): Promise<void> => {
      const { user, scopes, emergencyOwners } = await callerOf(req, services);
      if (route.access !== 'public') requireRole(user, route.access);
      if (scopes) requireScope(route, scopes);
      else if (user && !WITHOUT_FACTOR.has(id)) await requireFactor(req, services, user);
      if (route.method !== 'get') requireOwnPage(req, user);
      Object.assign(res.locals, { user, emergencyOwners } satisfies Admitted);
    };
    work().then(() => next(), next);
  };
}

/** Who calls: by session, or by a token with what it may do. */
async function callerOf(req: Request, services: Services): Promise<Admitted & { scopes: readonly TokenScope[] | null }> {
  const token = bearerToken(req);
  const known = token === null ? null : await userOfToken(services.database.app, token);
  const userId = token === null ? (req.session as typeof req.session | undefined)?.userId : known?.userId;
  if (token !== null && known === null)
    throw new Refusal(
      'signedOut',
      'bad-token',
      'The access token is not valid, has ended or was revoked. Create a new one under Your account.',
    );
  if (userId === undefined) return { user: null, scopes: null, emergencyOwners: [] };
  const { rows } = await services.database.app.execute<User & { emergency_owners: number[] }>(
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

async function requireFactor(req: Request, services: Services, user: User): Promise<void> {
  if (await lacksFactor(services, user.id, req.session.viaProvider ?? false))
    throw new Refusal('forbidden', 'second-factor-needed', 'The workspace needs a second factor of every member. Set yours up first.');
}

/** A token does what its scopes name, however much its member may. */
function requireScope(route: RouteShape, scopes: readonly TokenScope[]): void {
  const needed: TokenScope[] = [route.method === 'get' ? 'read' : 'write'];
  if (route.access !== 'public' && route.access.length === 1 && route.access[0] === 'admin') needed.push('admin');
  const missing = needed.filter((value) => !scopes.includes(value) && !(value === 'read' && scopes.includes('write')));
  if (missing.length > 0)
    throw new Refusal(
      'forbidden',
      'token-scope',
      `This access token is not for that: it lacks “${missing.join('”, “')}”. Create one with that scope.`,
    );
}

function requireRole(user: User | null, roles: readonly string[]): void {
  if (!user) throw new Refusal('signedOut', 'not-signed-in', 'Sign in first, or send an access token.');
  if (!roles.includes(user.role))
    throw new Refusal('forbidden', 'not-allowed', `This is for ${roles.join(', ')}; you are signed in as ${user.role}.`);
}

/** A change by cookie must come from our own pages: they alone know the session's secret, and no other origin is taken. */
function requireOwnPage(req: Request, user: User | null): void {
  if (bearerToken(req) !== null) return;
  const origin = req.get('origin');
  if (origin !== undefined && origin.replace(/^https?:\/\//, '') !== req.get('host'))
    throw new Refusal('forbidden', 'other-origin', 'Changes are taken from Fulvet’s own pages only.');
  if (user === null) return;
  const sent = Buffer.from(req.get('x-fulvet-csrf') ?? '');
  const expected = Buffer.from(req.session.csrf ?? '');
  if (expected.length === 0 || sent.length !== expected.length || !timingSafeEqual(sent, expected))
    throw new Refusal('forbidden', 'no-csrf', 'The page is out of date. Load it again; nothing was changed.');
}
