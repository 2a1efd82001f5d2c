import { isRefusal } from '../base/refusal';
import type { Handlers } from '../base/handler';
import { putPilotLive, startPilot, stopPilot } from './changePilot';
import { pilotState } from './pilot';
import { rulebookState } from './rulebookState';

export const pilotRoutes: Pick<Handlers, 'getPilot' | 'startPilot' | 'putPilotLive' | 'endPilot'> = {
  getPilot: async ({ user, services }) => ({ pilot: await services.database.as(user.id, pilotState) }),

  startPilot: ({ user, body, services }) => startPilot(services.database, user, body),

  putPilotLive: async ({ user, body, services }) => {
    const refused = await putPilotLive(services.database, user, body.note);
    return isRefusal(refused) ? refused : rulebookState(services, user.id);
  },

  endPilot: async ({ user, services }) => {
    const refused = await stopPilot(services.database, user);
    return isRefusal(refused) ? refused : {};
  },
};
