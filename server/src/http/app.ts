import type { RouteId, RouteShape, TokenScope, User } from '@fulvet/contract';
import { PUBLIC_BODY, routes, USUAL_BODY } from '@fulvet/contract';
import connectPgSimple from 'connect-pg-simple';
import { sql } from 'drizzle-orm';
import express from 'express';
import type { NextFunction, Request, RequestHandler, Response } from 'express';
import session from 'express-session';
import helmet from 'helmet';
import { createHmac, timingSafeEqual } from 'node:crypto';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import pg from 'pg';
import { ZodError } from 'zod';
import { SESSION_MS } from '../team/signIn/sessions';
import { userOfToken } from '../team/signIn/tokens';
import type { Services } from '../base/services';
import { databaseAway, isOutage, isTaken } from '../base/db/outage';
import { Refusal } from '../base/refusal';
import { healthRoutes } from './health';
import type { Call, Handlers } from '../base/handler';
import { lacksFactor } from '../team/signIn/session';
import { auditRoutes } from '../workspace/auditRoutes';
import { writeEmergencyReading } from '../sharing/emergencyReading';
import { sharingRoutes } from '../sharing/routes';
import { accountRoutes } from '../team/signIn/accountRoutes';
import { connectRoutes } from '../mailboxes/connect/routes';
import { draftRoutes } from '../rulebook/draftRoutes';
import { countRoutes } from '../trials/countRoutes';
import { exportRoutes } from '../emails/exportRoutes';
import { teamAddressRoutes } from '../mailboxes/teamAddressRoutes';
import { importRoutes } from '../mailboxes/files/routes';
import { listRoutes } from '../rulebook/listRoutes';
import { arrivalRoutes } from '../reports/routes';
import { explanationRoutes } from '../decision/explanationRoutes';
import { emailRoutes } from '../emails/routes';
import { changeRoutes } from './changeRoutes';
import { mailboxRoutes } from '../mailboxes/routes';
import { memberRoutes } from '../team/memberRoutes';
import { peopleRoutes } from '../records/peopleRoutes';
import { duplicateRoutes } from '../records/duplicates/routes';
import { ownKeepOutRoutes } from '../decision/ownKeepOutRoutes';
import { pilotRoutes } from '../rulebook/pilotRoutes';
import { privacyRoutes } from '../workspace/privacy/routes';
import { recordRoutes } from '../records/routes';
import { recordFileRoutes } from '../records/fileRoutes';
import { historyRoutes } from '../histories/routes';
import { searchRoutes } from '../emails/searchRoutes';
import { recordSetupRoutes } from '../records/setupRoutes';
import { peopleOfEmailRoutes } from '../histories/peopleRoutes';
import { deskRoutes } from '../repairs/deskRoutes';
import { repairRoutes } from '../repairs/routes';
import { rulebookRoutes } from '../rulebook/routes';
import { keepOutRoutes } from '../decision/keepOutRoutes';
import { pastRoutes } from '../decision/past/routes';
import { openApiRoutes } from './openApiRoutes';
import { sessionRoutes } from '../team/signIn/sessionRoutes';
import { teamRoutes } from '../team/teamRoutes';
import { trialRoutes } from '../trials/routes';
import { tuningRoutes } from '../reports/tuningRoutes';
import { versionRoutes } from '../rulebook/versionRoutes';
import { dealTeamRoutes } from '../sharing/dealTeamRoutes';
import { workspaceRoutes } from '../workspace/routes';

export interface AppOptions {
  /** Secret of the installation; cookies are signed with a key derived from it. */
  secret: string;
  /** Folder of the built web application, or null for the API alone. */
  webFolder: string | null;
  /** True when a proxy with TLS stands before the server. */
  behindTls: boolean;
}

const handlers: Handlers = {
  ...auditRoutes,
  ...sharingRoutes,
  ...accountRoutes,
  ...connectRoutes,
  ...draftRoutes,
  ...countRoutes,
  ...exportRoutes,
  ...importRoutes,
  ...teamAddressRoutes,
  ...listRoutes,
  ...arrivalRoutes,
  ...explanationRoutes,
  ...emailRoutes,
  ...changeRoutes,
  ...mailboxRoutes,
  ...memberRoutes,
  ...peopleRoutes,
  ...duplicateRoutes,
  ...ownKeepOutRoutes,
  ...pilotRoutes,
  ...privacyRoutes,
  ...recordRoutes,
  ...recordFileRoutes,
  ...historyRoutes,
  ...searchRoutes,
  ...recordSetupRoutes,
  ...peopleOfEmailRoutes,
  ...deskRoutes,
  ...repairRoutes,
  ...rulebookRoutes,
  ...keepOutRoutes,
  ...pastRoutes,
  ...openApiRoutes,
  ...sessionRoutes,
  ...teamRoutes,
  ...trialRoutes,
  ...tuningRoutes,
  ...versionRoutes,
  ...dealTeamRoutes,
  ...workspaceRoutes,
};
const API = '/api/v1';
/** Faults of a request that are named in its answer. */
const MOST_FAULTS = 20;

/** The HTTP server: the API as its routes describe it, and the web application. */
export function createApp(services: Services, options: AppOptions): express.Express {
  const app = express();
  app.disable('x-powered-by');
  if (options.behindTls) app.set('trust proxy', 1);
  app.use(securityHeaders(options.behindTls));
  app.use(healthRoutes(services));
  const api = express.Router();
  api.use(sessions(services, options));
  api.use(noStore);
  // A path with a literal word goes before one with a parameter in its place: `/records/{kind}/export` before `/records/{kind}/{id}`.
  const parameters = (path: string): number => path.split('{').length;
  const ordered = (Object.entries(routes) as [RouteId, RouteShape][]).sort(
    ([, shape], [, other]) => parameters(shape.path) - parameters(other.path),
  );
  for (const [id, route] of ordered) {
    const steps: RequestHandler[] = [admit(id, route, services)];
    if (route.body !== undefined && route.body !== 'bytes')
      steps.push(express.json({ limit: route.maxBody ?? (route.access === 'public' ? PUBLIC_BODY : USUAL_BODY) }));
    steps.push(run(id, route, services));
    api[route.method](route.path.replace(/\{(\w+)\}/g, ':$1'), ...steps);
  }
  api.use((_req, _res, next) => next(new Refusal(404, 'not-found', 'The API has no such path. See /api/v1/openapi.json.')));
  app.use(API, api);
  if (options.webFolder !== null) serveWeb(app, options.webFolder);
  app.use(answerError(services));
  return app;
}

function securityHeaders(behindTls: boolean): RequestHandler {
  return helmet({
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        defaultSrc: ["'none'"],
        scriptSrc: ["'self'"],
        styleSrc: ["'self'", "'unsafe-inline'"],
        imgSrc: ["'self'", 'data:'],
        fontSrc: ["'self'"],
        connectSrc: ["'self'"],
        frameSrc: ["'self'"],
        manifestSrc: ["'self'"],
        formAction: ["'self'"],
        baseUri: ["'none'"],
        frameAncestors: ["'none'"],
      },
    },
    strictTransportSecurity: behindTls,
    crossOriginEmbedderPolicy: false,
  });
}

function noStore(_req: Request, res: Response, next: NextFunction): void {
  res.set('Cache-Control', 'no-store');
  next();
}

function sessions(services: Services, options: AppOptions): RequestHandler {
  const Store = connectPgSimple(session);
  const withSession = session({
    name: 'fulvet.session',
    secret: createHmac('sha256', options.secret).update('session cookies').digest('hex'),
    store: new Store({ pool: services.database.appPool, tableName: 'session', createTableIfMissing: false, pruneSessionInterval: 3600 }),
    resave: false,
    saveUninitialized: false,
    rolling: true,
    proxy: options.behindTls,
    cookie: { httpOnly: true, sameSite: 'lax', secure: options.behindTls, maxAge: SESSION_MS },
  });
  // A token stands for its user alone: no session is opened for it.
  return (req, res, next) => (bearerToken(req) === null ? withSession(req, res, next) : next());
}

function bearerToken(req: Request): string | null {
  return /^Bearer\s+(\S+)$/i.exec(req.get('authorization') ?? '')?.[1] ?? null;
}

/** Who calls, once it is known that they may: asked before anything of the body is read. */
interface Admitted {
  user: User | null;
  /** Whose mail they may read now by an emergency reading. */
  emergencyOwners: readonly number[];
}

function admit(id: RouteId, route: RouteShape, services: Services): RequestHandler {
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

function run(id: RouteId, route: RouteShape, services: Services): RequestHandler {
  const handler = handlers[id] as unknown as (call: Call<RouteId>) => Promise<unknown>;
  return (req, res, next) => {
    const work = async (): Promise<void> => {
      const { user, emergencyOwners } = res.locals as Admitted;
      const params: unknown = route.params ? route.params.parse(withoutNul(req.params)) : {};
      const query: unknown = route.query ? route.query.parse(withoutNul(req.query)) : {};
      const body: unknown = route.body === undefined || route.body === 'bytes' ? undefined : route.body.parse(req.body ?? {});
      const isFile = 'mediaType' in route.response;
      const noted =
        user && emergencyOwners.length > 0
          ? (shown: unknown) => writeEmergencyReading(services, user, emergencyOwners, route, shown)
          : null;
      if (isFile) await noted?.(null);
      const answer = await handler({ user, params, query, body, services, req, res } as unknown as Call<RouteId>);
      if (res.headersSent || isFile) return;
      await noted?.(answer);
      res.json(answer);
    };
    work().catch(next);
  };
}

/** PostgreSQL stores no NUL: what has one is not found anywhere. */
function withoutNul<T>(values: T): T {
  if (JSON.stringify(values).includes('\\u0000'))
    throw new Refusal(422, 'bad-input', 'The address of the request has a NUL character, which nothing here has.');
  return values;
}

/** Who calls: by session, or by a token with what it may do. */
async function callerOf(req: Request, services: Services): Promise<Admitted & { scopes: readonly TokenScope[] | null }> {
  const token = bearerToken(req);
  const known = token === null ? null : await userOfToken(services.database.app, token);
  const userId = token === null ? (req.session as typeof req.session | undefined)?.userId : known?.userId;
  if (token !== null && known === null)
    throw new Refusal(401, 'bad-token', 'The access token is not valid, has ended or was revoked. Create a new one under Your account.');
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
    throw new Refusal(403, 'second-factor-needed', 'The workspace needs a second factor of every member. Set yours up first.');
}

/** A token does what its scopes name, however much its member may. */
function requireScope(route: RouteShape, scopes: readonly TokenScope[]): void {
  const needed: TokenScope[] = [route.method === 'get' ? 'read' : 'write'];
  if (route.access !== 'public' && route.access.length === 1 && route.access[0] === 'admin') needed.push('admin');
  const missing = needed.filter((value) => !scopes.includes(value) && !(value === 'read' && scopes.includes('write')));
  if (missing.length > 0)
    throw new Refusal(
      403,
      'token-scope',
      `This access token is not for that: it lacks “${missing.join('”, “')}”. Create one with that scope.`,
    );
}

function requireRole(user: User | null, roles: readonly string[]): void {
  if (!user) throw new Refusal(401, 'not-signed-in', 'Sign in first, or send an access token.');
  if (!roles.includes(user.role))
    throw new Refusal(403, 'not-allowed', `This is for ${roles.join(', ')}; you are signed in as ${user.role}.`);
}

/** A change by cookie must come from our own pages: they alone know the session's secret, and no other origin is taken. */
function requireOwnPage(req: Request, user: User | null): void {
  if (bearerToken(req) !== null) return;
  const origin = req.get('origin');
  if (origin !== undefined && origin.replace(/^https?:\/\//, '') !== req.get('host'))
    throw new Refusal(403, 'other-origin', 'Changes are taken from Fulvet’s own pages only.');
  if (user === null) return;
  const sent = Buffer.from(req.get('x-fulvet-csrf') ?? '');
  const expected = Buffer.from(req.session.csrf ?? '');
  if (expected.length === 0 || sent.length !== expected.length || !timingSafeEqual(sent, expected))
    throw new Refusal(403, 'no-csrf', 'The page is out of date. Load it again; nothing was changed.');
}

function serveWeb(app: express.Express, folder: string): void {
  app.use('/assets', express.static(join(folder, 'assets'), { immutable: true, maxAge: '1y', fallthrough: false }));
  app.use(express.static(folder, { index: false, maxAge: 0 }));
  app.use((req, res, next) => {
    if (req.method !== 'GET' || !existsSync(join(folder, 'index.html'))) return next();
    res.set('Cache-Control', 'no-cache');
    return res.sendFile(join(folder, 'index.html'));
  });
}

function answerError(services: Services): express.ErrorRequestHandler {
  return (error: unknown, req, res, _next) => {
    if (res.headersSent) {
      services.log.error({ err: error, path: req.path }, 'failed while answering');
      res.destroy();
      return;
    }
    const known = isOutage(error) ? databaseAway() : asRequestError(error);
    if (!known) services.log.error({ err: error, path: req.path }, 'request failed');
    const { status, code, message, fields } =
      known ??
      new Refusal(
        500,
        'internal',
        'Something went wrong on the server; nothing was lost. Try again, and tell the administrator if it stays so.',
      );
    res.removeHeader('Content-Disposition');
    res.type('json');
    res.status(status).json({ error: { code, message, ...(fields ? { fields } : {}) } });
  };
}

function asRequestError(error: unknown): Refusal | null {
  if (error instanceof Refusal) return error;
  if (error instanceof ZodError) {
    const fields = Object.fromEntries(
      error.issues.slice(0, MOST_FAULTS).map((issue) => [issue.path.join('.') || 'request', issue.message]),
    );
    const sentence = Object.entries(fields)
      .map(([name, message]) => `${name}: ${message}`)
      .join('; ');
    return new Refusal(422, 'bad-input', `This cannot be taken. ${sentence}.`, fields);
  }
  const cause = error instanceof Error ? error.cause : undefined;
  // Row security let the database refuse what the checks before it did not foresee.
  if (cause instanceof pg.DatabaseError && cause.code === '42501' && cause.hint === 'taken-over')
    return new Refusal(403, 'not-yours', 'A record is given to you by its owner or by a manager. Nothing was changed; ask one of them.');
  if (cause instanceof pg.DatabaseError && cause.code === '42501')
    return new Refusal(
      403,
      'not-allowed',
      'This is not yours to change, or it would leave it where you do not see it. Nothing was changed.',
    );
  // The checks before saw nothing: two wrote at once, or a record has it that whoever asks does not see. Which, is not told.
  if (isTaken(error))
    return new Refusal(
      409,
      'taken',
      'This cannot be saved as it is. Nothing was changed. Load the page again; if it stays so, ask an administrator to save it.',
    );
  const status = error !== null && typeof error === 'object' && 'status' in error ? Number(error.status) : 0;
  if (status === 413) return new Refusal(413, 'too-large', 'The request is too large.');
  if (status >= 400 && status < 500)
    return new Refusal(
      status,
      status === 404 ? 'not-found' : 'bad-request',
      status === 404 ? 'There is nothing here.' : 'The request cannot be read.',
    );
  return null;
}
