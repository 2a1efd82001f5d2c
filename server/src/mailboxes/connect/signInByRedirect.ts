import { Refusal, isRefusal } from '../../base/refusal';
import type { User } from '@fulvet/contract';
import { createHash } from 'node:crypto';
import type { Services } from '../../base/services';
import { lookedAfter, mailServerError } from '../mailboxRights';
import type { MailboxRow } from '../mailbox';
import { noteEvent } from '../mailboxLog';
import { putSecret } from './mailboxSecret';
import { beginSignIn, exchangeCode } from './providerSignIn';
import { keepSignIn, takeSignIn } from './queries';
import { resetChecks } from './runChecks';

const hashOf = (state: string): string => createHash('sha256').update(state).digest('hex');

const belongsTo = (mailboxId: number): string => `sign-in ${mailboxId}`;

/** Begins to sign in at the provider of a mailbox. @returns where to send the browser */
export async function beginRedirect(
  { database, keyRing, presets }: Services,
  user: User,
  { id, connection }: MailboxRow,
  returnUrl: string,
): Promise<{ url: string } | Refusal> {
  if (connection?.signIn !== 'redirect')
    return new Refusal('conflict', 'no-redirect', 'This mailbox is not set to sign in at its provider. Choose that first.');
  try {
    const { state, verifier, url } = beginSignIn(presets.get(connection.preset), returnUrl, connection.userName);
    const sealed = keyRing.seal(verifier, belongsTo(id));
    await keepSignIn(database.worker, { stateHash: hashOf(state), mailboxId: id, userId: user.id, verifier: sealed, returnUrl });
    return { url };
  } catch (error) {
    return mailServerError(error);
  }
}

/** What came of a sign-in, and at which mailbox. */
export interface SignedIn {
  mailboxId: number;
  outcome: 'yes' | 'refused' | 'failed';
}

/** Takes up a sign-in where its provider sends the browser back. */
export async function endRedirect(
  services: Services,
  user: User,
  { state, code }: { state: string; code?: string | undefined },
): Promise<SignedIn | Refusal> {
  const { database, keyRing, presets, jobs, log } = services;
  const begun = await takeSignIn(database.worker, hashOf(state), user.id);
  if (!begun)
    return new Refusal('conflict', 'bad-state', 'This sign-in was not begun here, or too long ago. Begin it again at the mailbox.');
  const { mailboxId, returnUrl } = begun;
  if (code === undefined) return { mailboxId, outcome: 'refused' };
  const mailbox = await lookedAfter(services, user, mailboxId);
  if (isRefusal(mailbox)) return mailbox;
  const preset = presets.get(mailbox.connection?.preset ?? 'general');
  try {
    const verifier = keyRing.open(begun.verifier, belongsTo(mailboxId));
    await putSecret(services, mailboxId, await exchangeCode(preset, code, verifier, returnUrl));
    await noteEvent(database.worker, mailboxId, 'note', `${user.name} signed in at ${preset.name}.`);
    await resetChecks(database.worker, mailboxId, 'name');
    await jobs.checkMailbox(mailboxId, 'name');
    return { mailboxId, outcome: 'yes' };
  } catch (error) {
    log.warn({ err: error }, 'sign-in at provider');
    return { mailboxId, outcome: 'failed' };
  }
}
