import type { ImapFlow } from 'imapflow';
import type { MailTarget } from './mailConnection';
import { openImap } from './mailConnection';
import { MailFailure } from '../../base/network/mailFailure';
import type { MailboxRow, MailServices } from '../mailbox';
import { targetOf } from './mailboxSecret';

/**
 * Connects to a mailbox and signs in. A token that the server refuses before its time is renewed once; a password is tried
 * once, so that no account is locked by hammering.
 *
 * @throws {MailFailure}
 */
export async function signedIn(services: MailServices, mailbox: MailboxRow): Promise<{ client: ImapFlow; target: MailTarget }> {
  const target = await targetOf(services, mailbox);
  try {
    return { client: await openImap(services.network, target), target };
  } catch (error) {
    const refused = error instanceof MailFailure && error.code === 'sign-in-refused';
    if (!refused || 'password' in target.secret) throw error;
    const renewed = await targetOf(services, mailbox, true);
    try {
      return { client: await openImap(services.network, renewed), target: renewed };
    } catch (again) {
      throw again instanceof MailFailure && again.code === 'sign-in-refused' ? new MailFailure('permission-withdrawn', again.said) : again;
    }
  }
}
