import { Refusal, isRefusal } from '../../base/refusal';
import { CHECK_STEPS } from '@fulvet/core';
import type { Request } from 'express';
import type { Handlers } from '../../base/handler';
import { detailOf, lookedAfter } from '../mailboxRights';
import type { MailboxConnection } from '../mailbox';
import { announceMailbox } from '../mailboxLog';
import { beginMailbox, serversFor, storeConnection } from './beginMailbox';
import { planMany } from './connectMany';
import { passedSteps } from './queries';
import { resetChecks } from './runChecks';
import { beginRedirect, endRedirect } from './signInByRedirect';

function originOf(req: Request): string {
  return `${req.protocol}://${req.get('host') ?? 'localhost'}`;
}

export const connectRoutes: Pick<
  Handlers,
  'createMailbox' | 'findServers' | 'listPresets' | 'putConnection' | 'beginRedirect' | 'endRedirect' | 'checkMailbox' | 'connectMany'
> = {
  createMailbox: async ({ user, body, services }) => {
    const id = await beginMailbox(services, user, body);
    if (isRefusal(id)) return id;
    return detailOf(services, user, id);
  },

  findServers: ({ body, services }) => serversFor(services, body.address),

  listPresets: ({ services }) =>
    Promise.resolve({ presets: services.presets.all().map(({ id, name, hosts, signIn }) => ({ id, name, hosts, signIn })) }),

  putConnection: async ({ user, params, body, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    if (isRefusal(mailbox)) return mailbox;
    const preset = services.presets.ofHost(body.imap.host);
    if (!preset.signIn.includes(body.signIn))
      return new Refusal('unfit', 'bad-input', `${preset.name} does not offer this way of signing in.`, { signIn: 'is not offered here' });
    const { imap, smtp, userName, signIn } = body;
    const connection: MailboxConnection = { preset: preset.id, imap, smtp, userName, signIn };
    await storeConnection(services, mailbox, connection, signIn === 'password' ? body.password : undefined);
    return detailOf(services, user, params.id);
  },

  beginRedirect: async ({ user, params, services, req }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    return isRefusal(mailbox) ? mailbox : beginRedirect(services, user, mailbox, `${originOf(req)}/api/v1/mailboxes/sign-in-return`);
  },

  endRedirect: async ({ user, query, services, res }) => {
    const done = await endRedirect(services, user, query);
    if (isRefusal(done)) return done;
    res.redirect(303, `/mailboxes/connect/${done.mailboxId}?signedIn=${done.outcome}`);
    return undefined;
  },

  checkMailbox: async ({ user, params, body, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    if (isRefusal(mailbox)) return mailbox;
    if (!mailbox.connection) return new Refusal('conflict', 'no-connection', 'Say first which server it is and how to sign in.');
    // A step may only be begun with when all before it have passed.
    const passed = await passedSteps(services.database.worker, mailbox.id);
    const from = CHECK_STEPS.slice(0, CHECK_STEPS.indexOf(body.from)).find((step) => !passed.has(step)) ?? body.from;
    await resetChecks(services.database.worker, mailbox.id, from);
    await services.jobs.checkMailbox(mailbox.id, from);
    await announceMailbox(services.database.worker, mailbox.id);
    return detailOf(services, user, params.id);
  },

  connectMany: async ({ user, body, services }) => {
    const lines = await planMany(services, body.text);
    if (isRefusal(lines)) return lines;
    if (!body.commit || lines.some((line) => line.problem !== null))
      return { rows: lines.map(({ line, address, problem }) => ({ line, address, problem, mailboxId: null })), done: false };
    const rows = [];
    for (const line of lines) {
      const mailboxId = await beginMailbox(services, user, line.mailbox);
      if (isRefusal(mailboxId)) return mailboxId;
      const mailbox = await lookedAfter(services, user, mailboxId);
      if (isRefusal(mailbox)) return mailbox;
      await storeConnection(services, mailbox, line.connection, line.password);
      await services.jobs.checkMailbox(mailboxId, 'name');
      rows.push({ line: line.line, address: line.address, problem: null, mailboxId });
    }
    return { rows, done: true };
  },
};
