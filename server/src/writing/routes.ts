import type { Handlers } from '../base/handler';
import { isRefusal, notFound } from '../base/refusal';
import { attach, detach, discard, save, start } from './drafts';
import { findRecipients } from './findRecipients';
import { pictureOf } from './pictures';
import { preview } from './preview';
import { recipientClock } from './recipientClock';
import { listOutgoing, outgoingOf } from './queries';
import { dueReminders, endReminder } from './reminders';
import { send, settle, takeBack } from './sending';

export const writingRoutes: Pick<
  Handlers,
  | 'findRecipients'
  | 'listOutgoing'
  | 'startOutgoing'
  | 'getOutgoing'
  | 'saveOutgoing'
  | 'discardOutgoing'
  | 'attachToOutgoing'
  | 'detachFromOutgoing'
  | 'getOutgoingPicture'
  | 'previewOutgoing'
  | 'getRecipientClock'
  | 'sendOutgoing'
  | 'takeBackOutgoing'
  | 'settleOutgoing'
  | 'listReminders'
  | 'endReminder'
> = {
  findRecipients: async ({ user, query, services }) => ({
    people: await services.database.as(user.id, (tx) => findRecipients(tx, query)),
  }),

  listOutgoing: async ({ user, query, services }) => ({
    emails: await services.database.as(user.id, (tx) => listOutgoing(tx, query)),
  }),

  startOutgoing: ({ user, body, services }) => start(services, user, body),

  getOutgoing: async ({ user, params, services }) =>
    (await services.database.as(user.id, (tx) => outgoingOf(tx, params.id))) ?? notFound('email'),

  saveOutgoing: ({ user, params, body, services }) => save(services, user, params.id, body),

  discardOutgoing: ({ user, params, services }) => discard(services, user, params.id),

  attachToOutgoing: ({ user, params, query, req, services }) =>
    attach(services, user, params.id, {
      ...query,
      inline: query.inline === 'true',
      saidBytes: Number(req.headers['content-length'] ?? 0),
      bytes: req,
    }),

  detachFromOutgoing: ({ user, params, services }) => detach(services, user, params.id, params.file),

  getOutgoingPicture: async ({ user, params, services, res }) => {
    const picture = await pictureOf(services, user, params.id, params.file);
    if (isRefusal(picture)) return picture;
    // Its type is what its first bytes say.
    res.set({
      'Content-Type': picture.type,
      'X-Content-Type-Options': 'nosniff',
      'Content-Security-Policy': "default-src 'none'; sandbox",
      'Content-Disposition': 'inline',
      'Cache-Control': 'private, max-age=3600',
    });
    res.send(picture.content);
    return undefined;
  },

  previewOutgoing: ({ user, params, services }) => preview(services, user, params.id),

  getRecipientClock: async ({ user, params, services }) => {
    const clock = await recipientClock(services, user, params.id);
    return isRefusal(clock) ? clock : { clock };
  },

  sendOutgoing: ({ user, params, body, services }) => send(services, user, params.id, body),

  takeBackOutgoing: ({ user, params, services }) => takeBack(services, user, params.id),

  listReminders: async ({ user, query, services }) => ({
    reminders: await services.database.as(user.id, (tx) => dueReminders(tx, query.record)),
  }),

  endReminder: ({ user, params, services }) => endReminder(services, user, params.id),

  settleOutgoing: ({ user, params, body, services }) => settle(services, user, params.id, body.wasSent),
};
