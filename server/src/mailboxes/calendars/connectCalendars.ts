import type { MailboxCalendars, User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { calendarAccounts, calendars } from '../../base/db/schema';
import { isRefusal, Refusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import type { MailboxRow } from '../mailbox';
import { noteEvent } from '../mailboxLog';
import { CalendarFailure, orRefusal } from './calendarFailure';
import { mailboxSecretOf, sealedFor, shownAddress } from './calendarSecret';
import { CalendarServer, demandSecure, fetchCalendarFile } from './calendarServer';
import { calendarsOf, wake } from './queries';

interface NewAccount {
  url: string;
  userName: string;
  /** An empty string: the mailbox's own. */
  password: string;
}

/** Finds the calendars at a server. Those that are known stay as they are; none is followed by this. */
export async function connectCalendars(
  services: Services,
  user: User,
  mailbox: MailboxRow,
  { url, userName: written, password }: NewAccount,
): Promise<MailboxCalendars | Refusal> {
  const userName = written || mailbox.connection?.userName || mailbox.address;
  const db = services.database.worker;
  const found = await orRefusal(async () => {
    demandSecure(services.network, url);
    const secret = password === '' ? await mailboxSecretOf(services, mailbox.id) : { password };
    const offered = await new CalendarServer(services.network, { url, userName, secret }).calendars();
    if (offered.length === 0) throw new CalendarFailure('not-found', 'It has no calendar with events, and no list of tasks.');
    return offered;
  });
  if (isRefusal(found)) return found;
  const account = { url, userName, sealed: password === '' ? null : sealedFor(services, mailbox.id, password) };
  await services.database.work(async (tx) => {
    await tx
      .insert(calendarAccounts)
      .values({ mailboxId: mailbox.id, ...account })
      .onConflictDoUpdate({ target: calendarAccounts.mailboxId, set: { ...account, changedAt: sql`now()` } });
    await tx.execute(
      sql`DELETE FROM calendars WHERE mailbox_id = ${mailbox.id} AND kind IN ('caldav', 'tasks') AND kind || ' ' || url <> ALL(${sql.param(found.map(({ kind, url: its }) => `${kind} ${its}`))}::text[])`,
    );
    for (const calendar of found)
      await tx
        .insert(calendars)
        .values({ mailboxId: mailbox.id, ...calendar })
        .onConflictDoUpdate({
          target: [calendars.mailboxId, calendars.kind, calendars.url],
          set: { name: calendar.name, problem: null, nextAt: sql`now()` },
        });
  });
  await noteEvent(
    db,
    mailbox.id,
    'note',
    `${user.name} connected ${found.length === 1 ? 'a calendar' : `${found.length} calendars`} of ${new URL(url).host}.`,
  );
  await wake(services, mailbox.id);
  return calendarsOf(db, mailbox.id);
}

/** Follows a calendar file. It is fetched once before, so that a wrong address is found at once. */
export async function subscribeCalendar(
  services: Services,
  user: User,
  mailbox: MailboxRow,
  { url, name }: { url: string; name: string },
): Promise<MailboxCalendars | Refusal> {
  const db = services.database.worker;
  const refused = await orRefusal(async () => {
    const file = await fetchCalendarFile(services.network, url, '');
    if ((await services.blobs.readers.read('calendarFile', file?.text ?? '')) === null) throw new CalendarFailure('not-a-calendar');
    return null;
  });
  if (refused) return refused;
  const { rowCount } = await db
    .insert(calendars)
    .values({
      mailboxId: mailbox.id,
      kind: 'subscribed',
      url: shownAddress(url),
      sealed: sealedFor(services, mailbox.id, url),
      name,
      followed: true,
    })
    .onConflictDoNothing();
  if (rowCount === 0) return new Refusal('conflict', 'exists', 'This calendar is in the list already.');
  await noteEvent(db, mailbox.id, 'note', `${user.name} subscribed to the calendar “${name}”.`);
  await wake(services, mailbox.id);
  return calendarsOf(db, mailbox.id);
}
