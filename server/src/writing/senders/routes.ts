import type { Handlers } from '../../base/handler';
import { confirm, saveSender, sendCode } from './proving';
import { allSendersOf } from './queries';

export const senderRoutes: Pick<Handlers, 'listSenders' | 'saveSender' | 'sendSenderCode' | 'confirmSender'> = {
  listSenders: async ({ user, services }) => ({ senders: await services.database.as(user.id, (tx) => allSendersOf(tx, user.id)) }),

  saveSender: ({ user, body, services }) => saveSender(services, user, body),

  sendSenderCode: ({ user, body, services }) => sendCode(services, user, body),

  confirmSender: ({ user, body, services }) => confirm(services, user, body),
};
