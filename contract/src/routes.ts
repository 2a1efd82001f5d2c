import { accessRoutes } from './routes/access';
import { draftRoutes } from './routes/draft';
import { importsRoutes } from './routes/imports';
import { mailRoutes } from './routes/mail';
import { mailboxesRoutes } from './routes/mailboxes';
import { mergeRoutes } from './routes/merges';
import { privacyRoutes } from './routes/privacy';
import { recordsRoutes } from './routes/records';
import { repairRoutes } from './routes/repairs';
import { rulesRoutes } from './routes/rules';
import { runRoutes } from './routes/runs';
import { teamRoutes } from './routes/team';
import { tuningRoutes } from './routes/tuning';

/** Every route of the API by its operation id. */
export const routes = {
  ...teamRoutes,
  ...accessRoutes,
  ...privacyRoutes,
  ...mailboxesRoutes,
  ...mailRoutes,
  ...recordsRoutes,
  ...repairRoutes,
  ...mergeRoutes,
  ...rulesRoutes,
  ...runRoutes,
  ...draftRoutes,
  ...tuningRoutes,
  ...importsRoutes,
} as const;

export type RouteId = keyof typeof routes;
