import { draftRoutes } from './routes/draft';
import { importsRoutes } from './routes/imports';
import { mailRoutes } from './routes/mail';
import { mailboxesRoutes } from './routes/mailboxes';
import { recordsRoutes } from './routes/records';
import { rulesRoutes } from './routes/rules';
import { teamRoutes } from './routes/team';

/** Every route of the API by its operation id. */
export const routes = {
  ...teamRoutes,
  ...mailboxesRoutes,
  ...mailRoutes,
  ...recordsRoutes,
  ...rulesRoutes,
  ...draftRoutes,
  ...importsRoutes,
} as const;

export type RouteId = keyof typeof routes;
