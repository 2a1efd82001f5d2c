import type { RouteId, RouteShape } from '@fulvet/contract';
import { PUBLIC_BODY, routes, USUAL_BODY } from '@fulvet/contract';
import connectPgSimple from 'connect-pg-simple';
import express from 'express';
import type { NextFunction, Request, RequestHandler, Response } from 'express';
import session from 'express-session';
import helmet from 'helmet';
import { createHmac } from 'node:crypto';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { SESSION_MS } from '../team/signIn/sessions';
import type { Services } from '../base/services';
import { isRefusal, Refusal } from '../base/refusal';
import { admit, bearerToken } from './admission';
import type { Admitted } from './admission';
import { answerError, answerRefusal } from './answerRefusal';
import { checkAnswer } from './checkAnswer';
import { handlers } from './handlers';
import { healthRoutes } from './health';
import type { Call } from '../base/handler';
import { writeEmergencyReading } from '../sharing/emergencyReading';

export interface AppOptions {
  /** Secret of the installation; cookies are signed with a key derived from it. */
  secret: string;
  /** Folder of the built web application, or null for the API alone. */
  webFolder: string | null;
  /** True when a proxy with TLS stands before the server. */
  behindTls: boolean;
}

const API = '/api/v1';

const NO_PATH = new Refusal('unknown', 'not-found', 'The API has no such path. See /api/v1/openapi.json.');

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
  api.use((_req, res) => answerRefusal(res, NO_PATH));
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

function run(id: RouteId, route: RouteShape, services: Services): RequestHandler {
  const handler = handlers[id] as unknown as (call: Call<RouteId>) => Promise<unknown>;
  return (req, res, next) => {
    const work = async (): Promise<void> => {
      const { user, emergencyOwners } = res.locals as Admitted;
      if (hasNul([req.params, req.query])) return answerRefusal(res, NUL);
      const params: unknown = route.params ? route.params.parse(req.params) : {};
      const query: unknown = route.query ? route.query.parse(req.query) : {};
      const body: unknown = route.body === undefined || route.body === 'bytes' ? undefined : route.body.parse(req.body ?? {});
      const isFile = 'mediaType' in route.response;
      const noted =
        user && emergencyOwners.length > 0
          ? (shown: unknown) => writeEmergencyReading(services, user, emergencyOwners, route, shown)
          : null;
      if (isFile) await noted?.(null);
      const answer = await handler({ user, params, query, body, services, req, res } as unknown as Call<RouteId>);
      if (isRefusal(answer)) return answerRefusal(res, answer);
      if (res.headersSent || isFile) return;
      await noted?.(answer);
      if (CHECKS_ANSWERS) checkAnswer(id, route, answer);
      res.json(answer);
    };
    work().catch(next);
  };
}

/** In tests, and where code is developed (`npm run dev`). */
const CHECKS_ANSWERS = process.env.NODE_ENV === 'test' || process.env.FULVET_CHECK_ANSWERS === '1';

/** PostgreSQL stores no NUL: what has one is not found anywhere. */
const hasNul = (values: unknown): boolean => JSON.stringify(values).includes('\\u0000');

const NUL = new Refusal('unfit', 'bad-input', 'The address of the request has a NUL character, which nothing here has.');

function serveWeb(app: express.Express, folder: string): void {
  app.use('/assets', express.static(join(folder, 'assets'), { immutable: true, maxAge: '1y', fallthrough: false }));
  app.use(express.static(folder, { index: false, maxAge: 0 }));
  app.use((req, res, next) => {
    if (req.method !== 'GET' || !existsSync(join(folder, 'index.html'))) return next();
    res.set('Cache-Control', 'no-cache');
    return res.sendFile(join(folder, 'index.html'));
  });
}
