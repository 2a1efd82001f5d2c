import type { User } from '@fulvet/contract';
import type { Services } from '../base/services';
import { dropSecret } from './connect/mailboxSecret';
import { revokeGrant } from './connect/providerSignIn';
import type { MailboxRow } from './mailbox';
import { announceMailbox, noteEvent } from './mailboxLog';
import { close, hasHistory, pause, remove, tryAgain } from './queries';

/** Those who work on a mailbox, and those who look at it, learn that something about it changed. */
async function tellOf({ database, jobs }: Services, id: number): Promise<void> {
  await jobs.hurryMailbox(id);
  await announceMailbox(database.worker, id);
}

export async function pauseMailbox(services: Services, user: User, { id }: MailboxRow): Promise<void> {
  const { worker } = services.database;
  await pause(worker, id);
  await noteEvent(worker, id, 'note', `${user.name} paused it.`);
  await tellOf(services, id);
}

export async function retryMailbox(services: Services, user: User, { id }: MailboxRow): Promise<void> {
  const { worker } = services.database;
  await tryAgain(worker, id);
  await noteEvent(worker, id, 'note', `${user.name} asked to try again now.`);
  await tellOf(services, id);
}

/** Disconnects a mailbox: its password is forgotten, its history stays. One from which no email ever came goes altogether. */
export async function disconnectMailbox(services: Services, user: User, { id, connection }: MailboxRow): Promise<void> {
  const { worker } = services.database;
  const secret = await dropSecret(services, id);
  if (secret && 'refreshToken' in secret && connection) await revokeGrant(services.presets.get(connection.preset), secret.refreshToken);
  if (await hasHistory(worker, id)) {
    await close(worker, id);
    await noteEvent(worker, id, 'note', `${user.name} disconnected it. Its history stays; the password is forgotten.`);
  } else await remove(worker, id);
  await tellOf(services, id);
}
