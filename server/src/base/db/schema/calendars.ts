import type { ListState } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { boolean, check, index, jsonb, pgTable, primaryKey, text, uniqueIndex } from 'drizzle-orm/pg-core';
import { tasks } from './agenda';
import { id, moment, ref } from './columns';
import { emails } from './emails';
import { mailboxes } from './mailboxes';
import { users } from './team';

const ofMailbox = () =>
  ref()
    .notNull()
    .references(() => mailboxes.id, { onDelete: 'cascade' });

/** Where the calendars of a mailbox's owner are kept (CalDAV). Without a password of its own, that of the mailbox is used. */
export const calendarAccounts = pgTable('calendar_accounts', {
  mailboxId: ofMailbox().primaryKey(),
  url: text().notNull(),
  userName: text().notNull(),
  sealed: text(),
  changedAt: moment().notNull().defaultNow(),
});

/** A calendar of a mailbox's owner. */
export const calendars = pgTable(
  'calendars',
  {
    id: id(),
    mailboxId: ofMailbox(),
    /** caldav: one of the account's. subscribed: a file that is fetched from its address. tasks: a list of to-dos of the account. */
    kind: text().notNull(),
    /** Of a subscription, its host and a digest: its address opens it to whoever knows it. */
    url: text().notNull(),
    /** The address of a subscription. */
    sealed: text(),
    name: text().notNull(),
    followed: boolean().notNull().default(false),
    /** Of a list of to-dos: whose tasks go there. */
    followedBy: ref().references(() => users.id, { onDelete: 'set null' }),
    /** What the last answer of a subscription was known by. */
    etag: text().notNull().default(''),
    problem: jsonb().$type<{ code: string; said: string; since: string }>(),
    readAt: moment(),
    /** When it is read next. */
    nextAt: moment().notNull().defaultNow(),
    leaseUntil: moment(),
  },
  (t) => [
    uniqueIndex('calendars_once').on(t.mailboxId, t.kind, t.url),
    index('calendars_due')
      .on(t.nextAt)
      .where(sql`${t.followed}`),
    check('calendars_kind_known', sql`${t.kind} in ('caldav', 'subscribed', 'tasks')`),
  ],
);

const ofCalendar = () =>
  ref()
    .notNull()
    .references(() => calendars.id, { onDelete: 'cascade' });

/** A calendar object as it was read last: an event with all its occurrences. */
export const calendarObjects = pgTable(
  'calendar_objects',
  {
    calendarId: ofCalendar(),
    /** Its address at the server; in a subscription its UID. */
    href: text().notNull(),
    etag: text().notNull(),
    /** It recurs: what of it is near changes from day to day. */
    recurs: boolean().notNull(),
    readAt: moment().notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.calendarId, t.href] })],
);

/** To-dos of a list, as both sides said the same last. */
export const calendarTodos = pgTable(
  'calendar_todos',
  {
    calendarId: ofCalendar(),
    href: text().notNull(),
    etag: text().notNull(),
    /** Null: it is passed over, since no task is like it. */
    taskId: ref().references(() => tasks.id, { onDelete: 'cascade' }),
    base: jsonb().$type<ListState>(),
  },
  (t) => [
    primaryKey({ columns: [t.calendarId, t.href] }),
    uniqueIndex('calendar_todos_once').on(t.calendarId, t.taskId),
    index('calendar_todos_by_task').on(t.taskId),
  ],
);

/** The events that a calendar object gave. One that was let go stays noted, so that it does not come in again. */
export const calendarEvents = pgTable(
  'calendar_events',
  {
    calendarId: ofCalendar(),
    href: text().notNull(),
    identity: text().notNull(),
    emailId: ref().references(() => emails.id, { onDelete: 'set null' }),
  },
  (t) => [primaryKey({ columns: [t.calendarId, t.href, t.identity] }), index('calendar_events_by_email').on(t.emailId)],
);
