import type { HeavyRouteId, RouteId, RouteShape } from '@fulvet/contract';
import { PUBLIC_BODY, routes, sayFaultsPlainly, USUAL_BODY } from '@fulvet/contract';
import compression from 'compression';
import connectPgSimple from 'connect-pg-simple';
import express from 'express';
import type { NextFunction, Request, RequestHandler, Response } from 'express';
import session from 'express-session';
import helmet from 'helmet';
import { createHmac } from 'node:crypto';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import sirv from 'sirv';
import { SESSION_MS } from '../team/signIn/sessions';
import type { Services } from '../base/services';
import type { HeavyThread } from '../heavyThread';
import { isRefusal, Refusal } from '../base/refusal';
import { admit, bearerToken } from './admission';
import type { Admitted } from './admission';
import { answerError, answerRefusal } from './answerRefusal';
import { checkAnswer } from './checkAnswer';
import { handlers } from './handlers';
import { healthRoutes } from './health';
import type { Call } from '../base/handler';
import { LINK_PATH } from '../writing/documents/links';
import { bookingPage } from '../writing/booking/bookingPage';
import { BOOKING_PATH } from '../writing/booking/offer';
import { UNSUBSCRIBE_PATH } from '../writing/bulk/unsubscribeLink';
import { unsubscribePage } from '../writing/bulk/unsubscribePage';
import { documentLinks } from '../writing/documents/openLink';
import { CLICKED_PATH, OPENED_PATH } from '../writing/measuring/measuredEmail';
import { clickedLink, openedPicture } from '../writing/measuring/measuredPages';
import { MemberNetworks } from '../writing/measuring/memberNetworks';
import { writeEmergencyReading } from '../sharing/emergencyReading';

export interface AppOptions {
  /** Secret of the installation; cookies are signed with a key derived from it. */
  secret: string;
  /** Folder of the built web application, or null for the API alone. */
  webFolder: string | null;
  /** True when a proxy with TLS stands before the server. */
  behindTls: boolean;
  /** Answers what computes over all mail or all records; null: answered like everything else. */
  heavyThread: HeavyThread | null;
}

const API = '/api/v1';

const NO_PATH = new Refusal('unknown', 'not-found', 'The API has no such path. See /api/v1/openapi.json.');

/** The HTTP server: the API as its routes describe it, and the web application. */
export function createApp(services: Services, options: AppOptions): express.Express {
  sayFaultsPlainly();
  const app = express();
  app.disable('x-powered-by');
  if (options.behindTls) app.set('trust proxy', 1);
  if (options.webFolder !== null) serveAssets(app, options.webFolder);
  app.use(securityHeaders(options.behindTls));
  app.use(healthRoutes(services));
  const networks = new MemberNetworks(services.database.worker, options.secret);
  app.use(LINK_PATH, documentLinks(services, networks));
  app.use(OPENED_PATH, openedPicture(services, networks));
  app.use(CLICKED_PATH, clickedLink(services, networks));
  app.use(UNSUBSCRIBE_PATH, unsubscribePage(services));
  app.use(BOOKING_PATH, bookingPage(services));
  const api = express.Router();
  // Answers, not files (whose bytes may be fetched in parts) and not the stream of changes (which must not be held back).
  api.use(compression({ filter: (_req, res) => String(res.getHeader('Content-Type')).startsWith('application/json') }));
  api.use(sessions(services, options));
  api.use(noStore);
  api.use(earlierPaths);
  // A path with a literal word goes before one with a parameter in its place: `/records/{kind}/export` before `/records/{kind}/{id}`.
  const parameters = (path: string): number => path.split('{').length;
  const ordered = (Object.entries(routes) as [RouteId, RouteShape][]).sort(
    ([, shape], [, other]) => parameters(shape.path) - parameters(other.path),
  );
  for (const [id, route] of ordered) {
    const steps: RequestHandler[] = [admit(id, route, services), whereMembersAre(services, networks)];
    if (route.body !== undefined && route.body !== 'bytes')
      steps.push(express.json({ limit: route.maxBody ?? (route.access === 'public' ? PUBLIC_BODY : USUAL_BODY) }));
    steps.push(run(id, route, services, options.heavyThread));
    api[route.method](route.path.replace(/\{(\w+)\}/g, ':$1'), ...steps);
  }
  api.use((_req, res) => answerRefusal(res, NO_PATH));
  app.use(API, api);
  if (options.webFolder !== null) serveWeb(app, options.webFolder);
  app.use(answerError(services));
  return app;
}

/** From where signed-in members ask: what is opened from there is not a recipient's doing. */
function whereMembersAre({ log }: Services, networks: MemberNetworks): RequestHandler {
  return (req, res, next) => {
    if ((res.locals as Admitted).user && bearerToken(req) === null)
      networks.note(req.ip).catch((error: unknown) => log.error({ err: error }, 'the network of a member'));
    next();
  };
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

/** Paths of the API under their names before: accepted until the next version. */
const EARLIER_PATHS: readonly (readonly [string, string])[] = [
  ['/kept-lists', '/address-lists'],
  ['/strangers', '/unknown-people'],
  ['/my-mail/words', '/my-mail/sharing-choices'],
];

function earlierPaths(req: Request, _res: Response, next: NextFunction): void {
  const found = EARLIER_PATHS.find(
    ([earlier]) => req.url === earlier || (/^[/?]/.test(req.url.slice(earlier.length)) && req.url.startsWith(earlier)),
  );
  if (found) req.url = `${found[1]}${req.url.slice(found[0].length)}`;
  next();
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

function run(id: RouteId, route: RouteShape, services: Services, heavyThread: HeavyThread | null): RequestHandler {
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
      const answer =
        heavyThread && user && isHeavy(id)
          ? await heavyThread.answer(id, { user, params, query, body })
          : await handler({ user, params, query, body, services, req, res } as unknown as Call<RouteId>);
      if (isRefusal(answer)) return answerRefusal(res, answer);
      if (res.headersSent || isFile) return;
      await noted?.(answer);
      if (CHECKS_ANSWERS) checkAnswer(id, route, answer);
      res.json(answer);
    };
    work().catch(next);
  };
}

const isHeavy = (id: RouteId): id is HeavyRouteId => 'heavy' in routes[id];

/** In tests, and where code is developed (`npm run dev`). */
const CHECKS_ANSWERS = process.env.NODE_ENV === 'test' || process.env.FULVET_CHECK_ANSWERS === '1';

/** PostgreSQL stores no NUL: what has one is not found anywhere. */
const hasNul = (values: unknown): boolean => JSON.stringify(values).includes('\\u0000');

const NUL = new Refusal('unfit', 'bad-input', 'The address of the request has a NUL character, which nothing here has.');

const YEAR_SECONDS = 31_536_000;
const COMPRESSED = { brotli: true, gzip: true, etag: true };

/** Scripts, styles and fonts: many small files, so with the few headers that matter for them, and not those of a page. */
function serveAssets(app: express.Express, folder: string): void {
  if (!existsSync(folder)) return;
  const setHeaders = (res: { setHeader(name: string, value: string): unknown }): void => {
    res.setHeader('X-Content-Type-Options', 'nosniff');
    res.setHeader('Cross-Origin-Resource-Policy', 'same-origin');
  };
  const assets = sirv(join(folder, 'assets'), { ...COMPRESSED, immutable: true, maxAge: YEAR_SECONDS, setHeaders });
  app.use('/assets', assets, (_req, res) => void res.status(404).end());
}

/** The web application. Its files are sent as Brotli or gzip, as they were compressed when it was built. */
function serveWeb(app: express.Express, folder: string): void {
  if (!existsSync(folder)) return;
  const setHeaders = (res: { setHeader(name: string, value: string): unknown }): void => void res.setHeader('Cache-Control', 'no-cache');
  // Every path of the application is answered by its one page.
  app.use(sirv(folder, { ...COMPRESSED, single: true, setHeaders }));
}
