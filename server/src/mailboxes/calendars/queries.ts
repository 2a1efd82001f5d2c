import type { MailboxCalendars, User } from '@fulvet/contract';
import type { CalendarFailureCode } from '@fulvet/core';
import { CALENDAR_FAILURES } from '@fulvet/core';
import { eq, sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Db } from '../../base/db/database';
import { calendars } from '../../base/db/schema';
import { moment, rowsOf } from '../../base/db/rows';
import { announce } from '../../base/live/changes';
import { isRefusal, notFound, Refusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import { announceMailbox, noteEvent } from '../mailboxLog';
import { lookedAfter } from '../mailboxRights';
import { CALENDAR_QUEUE } from './calendarTurn';

const accountRow = z.object({ url: z.string(), user_name: z.string(), own_password: z.boolean() });

const calendarRow = z.object({
  id: z.number(),
  kind: z.enum(['caldav', 'subscribed', 'tasks']),
  name: z.string(),
  url: z.string(),
  followed: z.boolean(),
  events: z.number(),
  read_at: moment.nullable(),
  problem: z.object({ code: z.string(), said: z.string(), since: z.string() }).nullable(),
});

/** The calendars of a mailbox's owner, as those see them who look after the mailbox. */
export async function calendarsOf(db: Db, mailboxId: number): Promise<MailboxCalendars> {
  const [account] = await rowsOf(
    db,
    accountRow,
    sql`SELECT url, user_name, sealed IS NOT NULL AS own_password FROM calendar_accounts WHERE mailbox_id = ${mailboxId}`,
  );
  const rows = await rowsOf(
    db,
    calendarRow,
    sql`SELECT c.id, c.kind, c.name, c.url, c.followed, c.read_at, c.problem,
      ((SELECT count(DISTINCT n.email_id) FROM calendar_events n WHERE n.calendar_id = c.id) + (SELECT count(d.task_id) FROM calendar_todos d WHERE d.calendar_id = c.id))::int AS events
    FROM calendars c WHERE c.mailbox_id = ${mailboxId} ORDER BY c.kind, lower(c.name), c.id`,
  );
  return {
    account: account ? { url: account.url, userName: account.user_name, ownPassword: account.own_password } : null,
    calendars: rows.map(({ id, kind, name, url, followed, events, read_at: readAt, problem }) => ({
      id,
      kind,
      name,
      host: kind === 'subscribed' ? (url.split(' ')[0] ?? '') : new URL(url).host,
      followed,
      events,
      readAt,
      problem: problem && followed ? shownProblem(problem) : null,
    })),
  };
}

function shownProblem({ code, said, since }: { code: string; said: string; since: string }) {
  const known = CALENDAR_FAILURES[code as CalendarFailureCode];
  return { title: known.title, remedy: known.remedy, said, since };
}

/** A calendar that a member looks after. */
export interface LookedAfterCalendar {
  id: number;
  mailboxId: number;
  name: string;
  kind: string;
  ownerId: number;
}

const mailboxOfRow = z.object({ id: z.number(), mailbox_id: z.number(), name: z.string(), kind: z.string(), owner_id: z.number() });

export async function calendarLookedAfter(services: Services, user: User, id: number): Promise<LookedAfterCalendar | Refusal> {
  const [row] = await rowsOf(
    services.database.worker,
    mailboxOfRow,
    sql`SELECT c.id, c.mailbox_id, c.name, c.kind, m.owner_id FROM calendars c JOIN mailboxes m ON m.id = c.mailbox_id WHERE c.id = ${id}`,
  );
  if (!row) return notFound('calendar');
  const mailbox = await lookedAfter(services, user, row.mailbox_id);
  return isRefusal(mailbox)
    ? notFound('calendar')
    : { id: row.id, mailboxId: row.mailbox_id, name: row.name, kind: row.kind, ownerId: row.owner_id };
}

export async function follow(
  services: Services,
  user: User,
  { id, mailboxId, name, kind, ownerId }: LookedAfterCalendar,
  followed: boolean,
): Promise<Refusal | null> {
  if (kind === 'tasks' && followed && ownerId !== user.id)
    return new Refusal(
      'forbidden',
      'not-yours',
      'The tasks of whoever owns the mailbox go into this list, so that they have to choose it themselves.',
    );
  const db = services.database.worker;
  await db
    .update(calendars)
    .set({ followed, followedBy: followed ? user.id : null, problem: null, nextAt: sql`now()` })
    .where(eq(calendars.id, id));
  const what = kind === 'tasks' ? 'list of tasks' : 'calendar';
  await noteEvent(db, mailboxId, 'note', `${user.name} ${followed ? 'follows' : 'no longer follows'} the ${what} “${name}”.`);
  await wake(services, mailboxId);
  return null;
}

export async function readNow(services: Services, { id, mailboxId }: LookedAfterCalendar): Promise<void> {
  await services.database.worker
    .update(calendars)
    .set({ nextAt: sql`now()` })
    .where(eq(calendars.id, id));
  await wake(services, mailboxId);
}

export async function remove(services: Services, user: User, { id, mailboxId, name }: LookedAfterCalendar): Promise<void> {
  const db = services.database.worker;
  await db.delete(calendars).where(eq(calendars.id, id));
  await noteEvent(db, mailboxId, 'note', `${user.name} removed the calendar “${name}”. Its events stay.`);
  await announceMailbox(db, mailboxId);
}

/** Calendars are read at once, and open pages learn of it. */
export async function wake({ database }: Services, mailboxId: number): Promise<void> {
  await announce(database.worker, { kind: 'work', queue: CALENDAR_QUEUE });
  await announceMailbox(database.worker, mailboxId);
}
