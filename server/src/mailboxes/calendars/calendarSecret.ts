import { sql } from 'drizzle-orm';
import { createHash } from 'node:crypto';
import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { MailFailure } from '../../base/network/mailFailure';
import { calendarBelongsTo } from '../../base/secrets/sealedFor';
import type { Services } from '../../base/services';
import { targetOf } from '../connect/mailboxSecret';
import { loadMailbox } from '../mailbox';
import { CalendarFailure } from './calendarFailure';
import type { CalendarTarget } from './calendarServer';

const accountRow = z.object({ url: z.string(), user_name: z.string(), sealed: z.string().nullable() });

/** Where the calendars of a mailbox's owner are, and how to sign in there. @throws {CalendarFailure} */
export async function calendarTargetOf(services: Services, mailboxId: number): Promise<CalendarTarget> {
  const [account] = await rowsOf(
    services.database.worker,
    accountRow,
    sql`SELECT url, user_name, sealed FROM calendar_accounts WHERE mailbox_id = ${mailboxId}`,
  );
  if (!account) throw new CalendarFailure('not-found');
  const password = account.sealed === null ? null : opened(services, account.sealed, mailboxId);
  const secret = password === null ? await mailboxSecretOf(services, mailboxId) : { password };
  return { url: account.url, userName: account.user_name, secret };
}

/** What the mailbox signs in with. @throws {CalendarFailure} */
export async function mailboxSecretOf(services: Services, mailboxId: number): Promise<CalendarTarget['secret']> {
  const mailbox = await loadMailbox(services.database.worker, mailboxId);
  if (!mailbox) throw new CalendarFailure('not-found');
  try {
    return (await targetOf(services, mailbox)).secret;
  } catch (error) {
    if (error instanceof MailFailure) throw new CalendarFailure('sign-in-refused', error.said);
    throw error;
  }
}

/** The address of a subscription, which opens it to whoever knows it. */
export function openedAddress(services: Services, { sealed, mailbox_id }: { sealed: string | null; mailbox_id: number }): string {
  return sealed === null ? '' : opened(services, sealed, mailbox_id);
}

/** How a subscription is known without its address. */
export function shownAddress(url: string): string {
  return `${new URL(url).host} ${createHash('sha256').update(url).digest('hex').slice(0, 12)}`;
}

export const sealedFor = (services: Services, mailboxId: number, secret: string): string =>
  services.keyRing.seal(secret, calendarBelongsTo(mailboxId));

function opened(services: Services, sealed: string, mailboxId: number): string {
  try {
    return services.keyRing.open(sealed, calendarBelongsTo(mailboxId));
  } catch {
    throw new CalendarFailure('sign-in-refused', 'The stored password cannot be opened. Enter it again.');
  }
}
