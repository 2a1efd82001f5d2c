import type { Handlers } from '../base/handler';
import { accountRoutes } from '../team/signIn/accountRoutes';
import { arrivalRoutes } from '../reports/routes';
import { auditRoutes } from '../workspace/auditRoutes';
import { changeRoutes } from './changeRoutes';
import { connectRoutes } from '../mailboxes/connect/routes';
import { countRoutes } from '../trials/countRoutes';
import { dealTeamRoutes } from '../sharing/dealTeamRoutes';
import { deskRoutes } from '../repairs/deskRoutes';
import { draftRoutes } from '../rulebook/draftRoutes';
import { duplicateRoutes } from '../records/duplicates/routes';
import { emailRoutes } from '../emails/routes';
import { explanationRoutes } from '../decision/explanationRoutes';
import { exportRoutes } from '../emails/exportRoutes';
import { historyRoutes } from '../histories/routes';
import { importRoutes } from '../mailboxes/files/routes';
import { keepOutRoutes } from '../decision/keepOutRoutes';
import { listRoutes } from '../rulebook/listRoutes';
import { bookingRoutes } from '../writing/booking/routes';
import { calendarRoutes } from '../mailboxes/calendars/routes';
import { mailboxRoutes } from '../mailboxes/routes';
import { memberRoutes } from '../team/memberRoutes';
import { openApiRoutes } from './openApiRoutes';
import { undoRoutes } from './undoRoutes';
import { ownKeepOutRoutes } from '../decision/ownKeepOutRoutes';
import { pastRoutes } from '../decision/past/routes';
import { peopleOfEmailRoutes } from '../histories/peopleRoutes';
import { peopleRoutes } from '../records/peopleRoutes';
import { pilotRoutes } from '../rulebook/pilotRoutes';
import { privacyRoutes } from '../workspace/privacy/routes';
import { recordFileRoutes } from '../records/fileRoutes';
import { recordRoutes } from '../records/routes';
import { recordSetupRoutes } from '../records/setupRoutes';
import { repairRoutes } from '../repairs/routes';
import { rulebookRoutes } from '../rulebook/routes';
import { searchRoutes } from '../emails/searchRoutes';
import { sessionRoutes } from '../team/signIn/sessionRoutes';
import { sharingRoutes } from '../sharing/routes';
import { teamAddressRoutes } from '../mailboxes/teamAddressRoutes';
import { teamRoutes } from '../team/teamRoutes';
import { trialRoutes } from '../trials/routes';
import { tuningRoutes } from '../reports/tuningRoutes';
import { versionRoutes } from '../rulebook/versionRoutes';
import { sampleRoutes } from '../workspace/sample/routes';
import { workspaceRoutes } from '../workspace/routes';
import { senderRoutes } from '../writing/senders/routes';
import { documentRoutes } from '../writing/documents/routes';
import { bulkRoutes } from '../writing/bulk/routes';
import { agendaRoutes } from '../agenda/routes';
import { activityRoutes } from '../records/activities/routes';
import { seriesRoutes } from '../writing/series/routes';
import { templateRoutes } from '../writing/templates/routes';
import { writingRoutes } from '../writing/routes';

/** The routes of all areas, joined. */
export const handlers: Handlers = {
  ...auditRoutes,
  ...senderRoutes,
  ...templateRoutes,
  ...documentRoutes,
  ...activityRoutes,
  ...agendaRoutes,
  ...seriesRoutes,
  ...bulkRoutes,
  ...writingRoutes,
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
  ...calendarRoutes,
  ...bookingRoutes,
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
  ...undoRoutes,
  ...sessionRoutes,
  ...teamRoutes,
  ...trialRoutes,
  ...tuningRoutes,
  ...versionRoutes,
  ...dealTeamRoutes,
  ...workspaceRoutes,
  ...sampleRoutes,
};
