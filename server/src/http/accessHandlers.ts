import type { Services } from '../base/services';
import { auditPageOf, auditPages } from '../workspace/auditPages';
import { checkAudit } from '../workspace/checkAudit';
import { writeDown } from '../base/audit';
import { askEmergency, confirmEmergency, emergenciesOf, endEmergency } from '../sharing/emergencies';
import { whoSees, sightOfMailbox } from '../sharing/whoSees';
import { answerRequest, askOwners, giveGrants, grantsOf, requestsOf, takeGrantBack, withdrawRequest } from '../sharing/grants';
import { ownWordsOf, sayWord, widestShare, withdrawWord } from '../sharing/ownWords';
import { liveRulebook } from '../rulebook/liveRulebook';
import type { Handlers } from '../base/handler';

type AccessHandlers = Pick<
  Handlers,
  | 'listOwnWords'
  | 'addOwnWord'
  | 'removeOwnWord'
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
  | 'listAudit'
  | 'exportAudit'
  | 'checkAudit'
>;

const compiledOf = async (services: Services) => (await liveRulebook(services.database)).compiled;

export const accessHandlers: AccessHandlers = {
  listOwnWords: ({ user, query, services }) =>
    services.database.as(user.id, async (tx) => ({ words: await ownWordsOf(tx, user.id, query.email), widest: await widestShare(tx) })),
  addOwnWord: ({ user, body, services }) => sayWord(services, user, body),
  removeOwnWord: async ({ user, params, services }) => {
    await withdrawWord(services, user, params.id);
    return {};
  },

  askAccess: async ({ user, body, services }) => ({ asked: await askOwners(services, user, body) }),
  listAccessRequests: async ({ user, services }) => {
    const all = await services.database.as(user.id, (tx) => requestsOf(tx, user.id));
    return { toMe: all.filter((one) => one.owner.id === user.id), mine: all.filter((one) => one.askedBy.id === user.id) };
  },
  answerAccessRequest: ({ user, params, body, services }) => answerRequest(services, user, params.id, body),
  withdrawAccessRequest: async ({ user, params, services }) => {
    await withdrawRequest(services, user, params.id);
    return {};
  },
  listGrants: ({ user, services }) => services.database.as(user.id, (tx) => grantsOf(tx, user.id)),
  addGrants: async ({ user, body, services }) => ({ grants: await giveGrants(services, user, body) }),
  withdrawGrant: async ({ user, params, services }) => {
    await takeGrantBack(services, user, params.id);
    return {};
  },

  getEyes: ({ user, params, services }) => whoSees(services.database, user, params.id),
  getSight: async ({ user, params, query, services }) =>
    sightOfMailbox(services.database, user, params.id, query.mailbox, await compiledOf(services)),

  listEmergencies: async ({ user, services }) => ({ emergencies: await services.database.as(user.id, (tx) => emergenciesOf(tx)) }),
  askEmergency: ({ user, body, services }) => askEmergency(services, user, body),
  confirmEmergency: ({ user, params, services }) => confirmEmergency(services, user, params.id),
  endEmergency: ({ user, params, services }) => endEmergency(services, user, params.id),

  listAudit: ({ user, query, services }) => services.database.as(user.id, (tx) => auditPageOf(tx, query)),
  exportAudit: async ({ user, query, services, res }) => {
    res.set({ 'Content-Type': 'application/jsonl; charset=utf-8', 'Content-Disposition': 'attachment; filename="audit.jsonl"' });
    await services.database.as(user.id, async (tx) => {
      for await (const entries of auditPages(tx, query)) res.write(entries.map((one) => `${JSON.stringify(one)}\n`).join(''));
      await writeDown(tx, user, { kind: 'export', about: 'exported the audit log' });
    });
    res.end();
    return undefined;
  },
  checkAudit: async ({ services }) => {
    const { chains, ...check } = await checkAudit(services.database.worker);
    // Chains of single members are theirs: that one has entries tells that there is something to hide.
    return {
      ...check,
      entries: chains.find((one) => one.chain === 'workspace')?.entries ?? 0,
      chains: chains.filter((one) => one.chain === 'workspace'),
    };
  },
};
