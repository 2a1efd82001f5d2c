import express from 'express';
import type { Services } from '../base/services';

const ANSWER_MS = 2_000;

/**
 * What a supervisor asks: `/healthz`, whether the process and its database answer; `/readyz`, whether requests can be served. Both answer 200 or 503.
 */
export function healthRoutes(services: Services): express.Router {
  const router = express.Router();
  const answer: express.RequestHandler = (_req, res, next) => {
    databaseAnswers(services).then((database) => {
      res.set('Cache-Control', 'no-store');
      res.status(database ? 200 : 503).json({ process: 'ok', database: database ? 'ok' : 'away' });
    }, next);
  };
  router.get('/healthz', answer);
  router.get('/readyz', answer);
  router.use(['/healthz', '/readyz'], (_req, res) => {
    res.status(404).json({ error: { code: 'not-found', message: 'There is nothing here. Ask /healthz or /readyz.' } });
  });
  return router;
}

/** By both roles, within two seconds. */
async function databaseAnswers({ database }: Services): Promise<boolean> {
  const late = new Promise<false>((resolve) => setTimeout(resolve, ANSWER_MS, false).unref());
  const asked = Promise.all([database.appPool.query('SELECT'), database.workerPool.query('SELECT')]).then(
    () => true,
    () => false,
  );
  return Promise.race([asked, late]);
}
