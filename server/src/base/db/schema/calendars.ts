import { sql } from 'drizzle-orm';
import { boolean, check, index, jsonb, pgTable, primaryKey, text, uniqueIndex } from 'drizzle-orm/pg-core';
import { id, moment, ref } from './columns';
import { emails } from './emails';
import { mailboxes } from './mailboxes';

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
    /** caldav: one of the account's. subscribed: a file that is fetched from its address. */
    kind: text().notNull(),
    /** Of a subscription, its host and a digest: its address opens it to whoever knows it. */
    url: text().notNull(),
    /** The address of a subscription. */
    sealed: text(),
    name: text().notNull(),
    followed: boolean().notNull().default(false),
    /** What the last answer of a subscription was known by. */
    etag: text().notNull().default(''),
    problem: jsonb().$type<{ code: string; said: string; since: string }>(),
    readAt: moment(),
    /** When it is read next. */
    nextAt: moment().notNull().defaultNow(),
    leaseUntil: moment(),
  },
  (t) => [
    uniqueIndex('calendars_once').on(t.mailboxId, t.url),
    index('calendars_due')
      .on(t.nextAt)
      .where(sql`${t.followed}`),
    check('calendars_kind_known', sql`${t.kind} in ('caldav', 'subscribed')`),
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
