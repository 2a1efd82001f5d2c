import { Refusal, notFound } from '../base/refusal';
import type { MailboxDetail, User } from '@fulvet/contract';
import { FAILURES } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { MailFailure } from '../base/network/mailFailure';
import { mailboxDetail } from './mailboxList';
import type { MailboxRow } from './mailbox';
import { loadMailbox } from './mailbox';
import type { Services } from '../base/services';

/** The mailbox, where the user looks after it: the owner, or an administrator. @returns a refusal otherwise */
export async function lookedAfter(services: Services, user: User, id: number): Promise<MailboxRow | Refusal> {
  const mailbox = await loadMailbox(services.database.worker, id);
  if (!mailbox || (user.role !== 'admin' && mailbox.owner_id !== user.id)) return notFound('mailbox');
  return mailbox;
}

export async function detailOf(services: Services, user: User, id: number): Promise<MailboxDetail | Refusal> {
  const { rowCount } = await services.database.worker.execute(sql`SELECT FROM mailbox_secrets WHERE mailbox_id = ${id}`);
  return services.database.as(user.id, (tx) => mailboxDetail(tx, user, id, (rowCount ?? 0) > 0));
}

/**
 * Administrators look after mailboxes, and do not come to read them by that: no one gives someone else's mail to themselves.
 *
 * @returns a refusal otherwise
 */
export function refuseSelf(user: User, ownerId: number, toSelf: boolean): Refusal | null {
  if (toSelf && ownerId !== user.id)
    return new Refusal(
      'forbidden',
      'own-hand',
      'No one can let themselves read a colleague’s mailbox. Its owner can, or another administrator; in an emergency ask for emergency reading.',
    );
  return null;
}

/** A failure at the mail server as an answer that says what to do. Throws whatever else went wrong. */
export function mailServerError(error: unknown): Refusal {
  if (!(error instanceof MailFailure)) throw error;
  const known = FAILURES[error.code];
  return new Refusal('elsewhere', 'mail-server', `${known.title}. ${known.remedy}${error.said ? ` The server said: ${error.said}` : ''}`);
}

/** Running turns learn that something about their mailbox changed. */
export async function raiseRevision(services: Services, id: number): Promise<void> {
  await services.database.worker.execute(sql`UPDATE mailboxes SET revision = revision + 1 WHERE id = ${id}`);
  await services.jobs.hurryMailbox(id);
}
