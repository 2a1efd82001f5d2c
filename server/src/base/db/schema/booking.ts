import { sql } from 'drizzle-orm';
import { bigint, check, index, integer, jsonb, pgTable, primaryKey, text } from 'drizzle-orm/pg-core';
import { calendars } from './calendars';
import { id, moment, ref } from './columns';
import { users } from './team';

/** Times that are taken in a calendar, of events that are kept out too: nothing but when. */
export const calendarBusy = pgTable(
  'calendar_busy',
  {
    calendarId: ref()
      .notNull()
      .references(() => calendars.id, { onDelete: 'cascade' }),
    href: text().notNull(),
    position: integer().notNull(),
    startsAt: moment().notNull(),
    endsAt: moment().notNull(),
  },
  (t) => [primaryKey({ columns: [t.calendarId, t.href, t.position] }), index('calendar_busy_by_end').on(t.calendarId, t.endsAt)],
);

/** Kinds of meeting that members offer times for. */
export const meetingKinds = pgTable('meeting_kinds', {
  id: id(),
  ownerId: ref()
    .notNull()
    .references(() => users.id),
  name: text().notNull(),
  /** What guests read about it, and where it takes place. */
  about: text().notNull().default(''),
  place: text().notNull().default(''),
  /** Zone, days, hours, length, break, notice, how far ahead. */
  times: jsonb().$type<unknown>().notNull(),
  needs: text().notNull(),
  memberIds: bigint({ mode: 'number' }).array().notNull(),
  revision: integer().notNull().default(0),
  removedAt: moment(),
  createdAt: moment().notNull().defaultNow(),
});

/** Links by which one guest each books a time. */
export const bookingLinks = pgTable('booking_links', {
  id: id(),
  tokenHash: text().notNull().unique('booking_links_token_once'),
  kindId: ref()
    .notNull()
    .references(() => meetingKinds.id),
  makerId: ref()
    .notNull()
    .references(() => users.id),
  /** Under what the invitation is filed, beside what the rules say. */
  kind: text(),
  recordId: ref(),
  /** What guests sent through it: a robot is stopped. */
  tries: integer().notNull().default(0),
  endsAt: moment().notNull(),
  createdAt: moment().notNull().defaultNow(),
});

/** What guests booked; moved and cancelled in place. */
export const bookings = pgTable(
  'bookings',
  {
    id: id(),
    linkId: ref()
      .notNull()
      .unique('bookings_link_once')
      .references(() => bookingLinks.id),
    kindId: ref()
      .notNull()
      .references(() => meetingKinds.id),
    uid: text().notNull(),
    sequence: integer().notNull().default(0),
    /** Whose mailbox invites. */
    hostId: ref()
      .notNull()
      .references(() => users.id),
    memberIds: bigint({ mode: 'number' }).array().notNull(),
    guestAddress: text().notNull(),
    guestName: text().notNull(),
    note: text().notNull().default(''),
    zone: text().notNull(),
    startsAt: moment().notNull(),
    endsAt: moment().notNull(),
    state: text().notNull().default('booked'),
    createdAt: moment().notNull().defaultNow(),
    changedAt: moment().notNull().defaultNow(),
  },
  (t) => [
    index('bookings_by_time')
      .on(t.endsAt)
      .where(sql`${t.state} = 'booked'`),
    check('bookings_state_known', sql`${t.state} in ('booked', 'cancelled')`),
  ],
);
