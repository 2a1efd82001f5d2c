import { isRefusal } from '../base/refusal';
import type { Handlers } from '../base/handler';
import type { Services } from '../base/services';
import { liveRulebook } from '../rulebook/liveRulebook';
import { askEmergency, confirmEmergency, emergenciesOf, endEmergency } from './emergencies';
import { answerRequest, askOwners, requestsOf, withdrawRequest } from './accessRequests';
import { giveGrants, grantsOf, takeGrantBack } from './grants';
import { sharingChoicesOf, sayWord, widestShare, withdrawWord } from './sharingChoices';
import { sightOfMailbox, whoSees } from './whoSees';

const compiledOf = async (services: Services) => (await liveRulebook(services.database)).compiled;

export const sharingRoutes: Pick<
  Handlers,
  | 'listSharingChoices'
  | 'addSharingChoice'
  | 'removeSharingChoice'
  | 'askAccess'
  | 'listAccessRequests'
  | 'answerAccessRequest'
  | 'withdrawAccessRequest'
  | 'listGrants'
  | 'addGrants'
  | 'withdrawGrant'
  | 'getEyes'
  | 'getSight'
  | 'listEmergencies'
  | 'askEmergency'
  | 'confirmEmergency'
  | 'endEmergency'
> = {
  listSharingChoices: ({ user, query, services }) =>
    services.database.as(user.id, async (tx) => ({
      choices: await sharingChoicesOf(tx, user.id, query.email),
      widest: await widestShare(tx),
    })),

  addSharingChoice: ({ user, body, services }) => sayWord(services, user, body),

  removeSharingChoice: async ({ user, params, services }) => {
    const refused = await withdrawWord(services, user, params.id);
    if (isRefusal(refused)) return refused;
    return {};
  },

  askAccess: async ({ user, body, services }) => {
    const asked = await askOwners(services, user, body);
    return isRefusal(asked) ? asked : { asked };
  },

  listAccessRequests: async ({ user, services }) => {
    const all = await services.database.as(user.id, (tx) => requestsOf(tx, user.id));
    return { toMe: all.filter((item) => item.owner.id === user.id), mine: all.filter((item) => item.askedBy.id === user.id) };
  },

  answerAccessRequest: ({ user, params, body, services }) => answerRequest(services, user, params.id, body),

  withdrawAccessRequest: async ({ user, params, services }) => {
    const refused = await withdrawRequest(services, user, params.id);
    if (isRefusal(refused)) return refused;
    return {};
  },

  listGrants: ({ user, services }) => services.database.as(user.id, (tx) => grantsOf(tx, user.id)),

  addGrants: async ({ user, body, services }) => {
    const grants = await giveGrants(services, user, body);
    return isRefusal(grants) ? grants : { grants };
  },

  withdrawGrant: async ({ user, params, services }) => {
    const refused = await takeGrantBack(services, user, params.id);
    if (isRefusal(refused)) return refused;
    return {};
  },

  getEyes: ({ user, params, services }) => whoSees(services.database, user, params.id),

  getSight: async ({ user, params, query, services }) =>
    sightOfMailbox(services.database, user, params.id, query.mailbox, await compiledOf(services)),

  listEmergencies: async ({ user, services }) => ({ emergencies: await services.database.as(user.id, (tx) => emergenciesOf(tx)) }),

  askEmergency: ({ user, body, services }) => askEmergency(services, user, body),

  confirmEmergency: ({ user, params, services }) => confirmEmergency(services, user, params.id),

  endEmergency: ({ user, params, services }) => endEmergency(services, user, params.id),
};
