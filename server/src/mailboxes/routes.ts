import { isRefusal } from '../base/refusal';
import type { Handlers } from '../base/handler';
import { rotateKeys } from '../base/secrets/rotateKeys';
import { lookBackChoices } from './connect/lookBack';
import { detailOf, lookedAfter, mailServerError, raiseRevision } from './mailboxRights';
import { mailboxList } from './mailboxList';
import { putSettings } from './mailboxSettings';
import { passOnMailbox } from './passOn';
import { eventsAfter, eventsBefore } from './queries';
import { startMailbox } from './startMailbox';
import { disconnectMailbox, pauseMailbox, retryMailbox } from './switchMailbox';

const EXPORT_PAGE = 1000;

export const mailboxRoutes: Pick<
  Handlers,
  | 'listMailboxes'
  | 'getMailbox'
  | 'getLookBack'
  | 'putMailboxSettings'
  | 'startMailbox'
  | 'pauseMailbox'
  | 'retryMailbox'
  | 'disconnectMailbox'
  | 'passOnMailbox'
  | 'listMailboxEvents'
  | 'exportMailboxEvents'
  | 'rotateMailKeys'
> = {
  listMailboxes: async ({ user, services }) => services.database.as(user.id, async (tx) => ({ mailboxes: await mailboxList(tx, user) })),

  getMailbox: ({ user, params, services }) => detailOf(services, user, params.id),

  getLookBack: async ({ user, params, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    if (isRefusal(mailbox)) return mailbox;
    try {
      return { choices: await lookBackChoices(services, mailbox) };
    } catch (error) {
      return mailServerError(error);
    }
  },

  putMailboxSettings: async ({ user, params, body, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    if (isRefusal(mailbox)) return mailbox;
    const refused = await putSettings(services, user, mailbox, body);
    if (isRefusal(refused)) return refused;
    await raiseRevision(services, mailbox.id);
    return detailOf(services, user, params.id);
  },

  startMailbox: async ({ user, params, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    if (isRefusal(mailbox)) return mailbox;
    const refused = await startMailbox(services, user, mailbox.id);
    if (isRefusal(refused)) return refused;
    return detailOf(services, user, params.id);
  },

  pauseMailbox: async ({ user, params, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    if (isRefusal(mailbox)) return mailbox;
    await pauseMailbox(services, user, mailbox);
    return detailOf(services, user, params.id);
  },

  retryMailbox: async ({ user, params, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    if (isRefusal(mailbox)) return mailbox;
    await retryMailbox(services, user, mailbox);
    return detailOf(services, user, params.id);
  },

  disconnectMailbox: async ({ user, params, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    if (isRefusal(mailbox)) return mailbox;
    await disconnectMailbox(services, user, mailbox);
    return {};
  },

  passOnMailbox: async ({ user, params, body, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    return isRefusal(mailbox) ? mailbox : passOnMailbox(services, user, mailbox, body.ownerId);
  },

  listMailboxEvents: async ({ user, params, query, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    if (isRefusal(mailbox)) return mailbox;
    return { events: await services.database.as(user.id, (tx) => eventsBefore(tx, mailbox.id, query.before ?? null, query.limit)) };
  },

  exportMailboxEvents: async ({ user, params, services, res }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    if (isRefusal(mailbox)) return mailbox;
    res.set('Content-Type', 'application/jsonl; charset=utf-8');
    res.attachment(`mailbox-log-${mailbox.address.replace(/[^\w.@-]/g, '_')}.jsonl`);
    const lines = async function* (): AsyncGenerator<string> {
      for (let last = 0; ;) {
        const from = last;
        const events = await services.database.as(user.id, (tx) => eventsAfter(tx, mailbox.id, from, EXPORT_PAGE));
        yield events.map((event) => `${JSON.stringify(event)}\n`).join('');
        if (events.length < EXPORT_PAGE) return;
        last = events.at(-1)?.id ?? last;
      }
    };
    const refused = await services.downloads.send(user, res, lines());
    if (isRefusal(refused)) return refused;
    return undefined;
  },

  rotateMailKeys: async ({ services }) => ({ sealed: await rotateKeys(services) }),
};
