import { signInStates } from '../../base/db/schema';
import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { Refusal, isRefusal } from '../../base/refusal';
import { CHECK_STEPS } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Request } from 'express';
import { createHash } from 'node:crypto';
import type { Handlers } from '../../base/handler';
import { detailOf, lookedAfter, mailServerError } from '../lookedAfter';
import type { MailboxConnection } from '../mailbox';
import { announceMailbox, noteEvent } from '../mailboxLog';
import { beginMailbox, serversFor, storeConnection } from './beginMailbox';
import { planMany } from './connectMany';
import { putSecret } from './mailboxSecret';
import { beginSignIn, exchangeCode } from './providerSignIn';
import { resetChecks } from './runChecks';

const hashOf = (state: string): string => createHash('sha256').update(state).digest('hex');

function originOf(req: Request): string {
  return `${req.protocol}://${req.get('host') ?? 'localhost'}`;
}

const signInStateRow = z.object({ mailbox_id: z.number(), verifier: z.string(), return_url: z.string() });

const mailboxCheckRow = z.object({ step: z.string() });

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
    if (isRefusal(mailbox)) return mailbox;
    if (mailbox.connection?.signIn !== 'redirect')
      return new Refusal('conflict', 'no-redirect', 'This mailbox is not set to sign in at its provider. Choose that first.');
    const returnUrl = `${originOf(req)}/api/v1/mailboxes/sign-in-return`;
    try {
      const begun = beginSignIn(services.presets.get(mailbox.connection.preset), returnUrl, mailbox.connection.userName);
      await services.database.worker.insert(signInStates).values({
        stateHash: hashOf(begun.state),
        mailboxId: mailbox.id,
        userId: user.id,
        verifier: services.keyRing.seal(begun.verifier, `sign-in ${mailbox.id}`),
        returnUrl,
      });
      return { url: begun.url };
    } catch (error) {
      throw mailServerError(error);
    }
  },

  endRedirect: async ({ user, query, services, res }) => {
    const rows = await rowsOf(
      services.database.worker,
      signInStateRow,
      sql`DELETE FROM sign_in_states WHERE state_hash = ${hashOf(query.state)} AND user_id = ${user.id} AND created_at > now() - interval '15 minutes' RETURNING mailbox_id, verifier, return_url`,
    );
    const begun = rows[0];
    if (!begun)
      return new Refusal('conflict', 'bad-state', 'This sign-in was not begun here, or too long ago. Begin it again at the mailbox.');
    const back = (outcome: string): void => res.redirect(303, `/mailboxes/connect/${begun.mailbox_id}?signedIn=${outcome}`);
    if (query.code === undefined) return back('refused') as undefined;
    const mailbox = await lookedAfter(services, user, begun.mailbox_id);
    if (isRefusal(mailbox)) return mailbox;
    const preset = services.presets.get(mailbox.connection?.preset ?? 'general');
    try {
      const verifier = services.keyRing.open(begun.verifier, `sign-in ${mailbox.id}`);
      await putSecret(services, mailbox.id, await exchangeCode(preset, query.code, verifier, begun.return_url));
      await noteEvent(services.database.worker, mailbox.id, 'note', `${user.name} signed in at ${preset.name}.`);
      await resetChecks(services.database.worker, mailbox.id, 'name');
      await services.jobs.checkMailbox(mailbox.id, 'name');
    } catch (error) {
      services.log.warn({ err: error }, 'sign-in at provider');
      return back('failed') as undefined;
    }
    return back('yes') as undefined;
  },

  checkMailbox: async ({ user, params, body, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    if (isRefusal(mailbox)) return mailbox;
    if (!mailbox.connection) return new Refusal('conflict', 'no-connection', 'Say first which server it is and how to sign in.');
    // A step may only be begun with when all before it have passed.
    const rows = await rowsOf(
      services.database.worker,
      mailboxCheckRow,
      sql`SELECT step FROM mailbox_checks WHERE mailbox_id = ${mailbox.id} AND state = 'passed'`,
    );
    const passed = new Set(rows.map((row) => row.step));
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
