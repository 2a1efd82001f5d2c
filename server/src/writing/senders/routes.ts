import type { Handlers } from '../../base/handler';
import { confirm, saveSender, sendCode } from './proving';
import { allSendersOf, writingRightsOf } from './queries';

export const senderRoutes: Pick<Handlers, 'listSenders' | 'saveSender' | 'sendSenderCode' | 'confirmSender'> = {
  listSenders: ({ user, services }) =>
    services.database.as(user.id, async (tx) => ({ senders: await allSendersOf(tx, user.id), ...(await writingRightsOf(tx, user.id)) })),

  saveSender: ({ user, body, services }) => saveSender(services, user, body),

  sendSenderCode: ({ user, body, services }) => sendCode(services, user, body),

  confirmSender: ({ user, body, services }) => confirm(services, user, body),
};
