import { workspaceRoutes } from './workspace/routes';
import { sharingRoutes } from './sharing/routes';
import { trialRoutes } from './trials/routes';
import { draftRoutes } from './rulebook/draftRoutes';
import { emailRoutes } from './emails/routes';
import { importRoutes } from './mailboxes/importRoutes';
import { teamAddressRoutes } from './mailboxes/teamAddressRoutes';
import { reportRoutes } from './reports/routes';
import { decisionRoutes } from './decision/routes';
import { baseRoutes } from './base/routes';
import { bookingRoutes } from './writing/bookingRoutes';
import { calendarRoutes } from './mailboxes/calendarRoutes';
import { mailboxRoutes } from './mailboxes/routes';
import { peopleRoutes } from './records/peopleRoutes';
import { activityRoutes } from './records/activityRoutes';
import { duplicateRoutes } from './records/duplicateRoutes';
import { privacyRoutes } from './workspace/privacyRoutes';
import { historyRoutes } from './histories/routes';
import { recordRoutes } from './records/routes';
import { repairRoutes } from './repairs/routes';
import { rulebookRoutes } from './rulebook/routes';
import { signInRoutes } from './team/signInRoutes';
import { teamRoutes } from './team/routes';
import { agendaRoutes } from './agenda/routes';
import { documentRoutes } from './writing/documentRoutes';
import { bulkRoutes } from './writing/bulkRoutes';
import { seriesRoutes } from './writing/seriesRoutes';
import { templateRoutes } from './writing/templateRoutes';
import { writingRoutes } from './writing/routes';

/** Every route of the API by its operation id. */
export const routes = {
  ...workspaceRoutes,
  ...sharingRoutes,
  ...trialRoutes,
  ...draftRoutes,
  ...emailRoutes,
  ...importRoutes,
  ...teamAddressRoutes,
  ...templateRoutes,
  ...agendaRoutes,
  ...documentRoutes,
  ...seriesRoutes,
  ...bulkRoutes,
  ...writingRoutes,
  ...reportRoutes,
  ...decisionRoutes,
  ...baseRoutes,
  ...mailboxRoutes,
  ...calendarRoutes,
  ...bookingRoutes,
  ...peopleRoutes,
  ...activityRoutes,
  ...duplicateRoutes,
  ...privacyRoutes,
  ...historyRoutes,
  ...recordRoutes,
  ...repairRoutes,
  ...rulebookRoutes,
  ...signInRoutes,
  ...teamRoutes,
} as const;

export type RouteId = keyof typeof routes;
/** Routes that compute over all mail or all records. */
export type HeavyRouteId = { [Id in RouteId]: (typeof routes)[Id] extends { heavy: true } ? Id : never }[RouteId];
