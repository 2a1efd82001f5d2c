import { PIN_DEEDS } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { boolean, check, index, integer, jsonb, pgTable, primaryKey, text } from 'drizzle-orm/pg-core';
import { id, moment, ref } from './columns';
import { emails } from './emails';
import { users } from './team';

/** What a person put right in one step, and can take back as one. */
export const repairs = pgTable(
  'repairs',
  {
    id: id(),
    userId: ref()
      .notNull()
      .references(() => users.id),
    at: moment().notNull().defaultNow(),
    /** In words; names records and external people, never what an email says. */
    summary: text().notNull(),
    /** How many emails it was said about. */
    emails: integer().notNull(),
    /** Records that it created. */
    created: jsonb().$type<{ kind: string; id: number }[]>().notNull().default([]),
    /** Addresses that it gave to known people. */
    addresses: jsonb().$type<{ kind: string; id: number; address: string }[]>().notNull().default([]),
    /** It seals: no one else learns of it. */
    sealed: boolean().notNull().default(false),
    undoneAt: moment(),
  },
  (t) => [index('repairs_by_user').on(t.userId, t.id)],
);

/** A decision by a person about an email, or about its conversation from there; rules never overturn it. */
export const pins = pgTable(
  'pins',
  {
    id: id(),
    repairId: ref()
      .notNull()
      .references(() => repairs.id),
    userId: ref()
      .notNull()
      .references(() => users.id),
    emailId: ref()
      .notNull()
      .references(() => emails.id, { onDelete: 'cascade' }),
    does: text().notNull(),
    /** Null: about no record, or about every one. */
    kind: text(),
    /** Null: every one of the kind. */
    recordId: ref(),
    reach: text().notNull(),
    at: moment().notNull().defaultNow(),
    releasedAt: moment(),
  },
  (t) => [
    index('pins_standing')
      .on(t.emailId)
      .where(sql`${t.releasedAt} is null`),
    index('pins_by_record').on(t.kind, t.recordId),
    check('pins_deed_known', sql`${t.does} in (${sql.raw(PIN_DEEDS.map((deed) => `'${deed}'`).join(', '))})`),
    check('pins_reach_known', sql`${t.reach} in ('email', 'onward', 'soFar', 'conversation')`),
  ],
);

/** A filing by a rule that a repair took away: the rule was wrong about that email. */
export const correctedFilings = pgTable(
  'corrected_filings',
  {
    repairId: ref()
      .notNull()
      .references(() => repairs.id, { onDelete: 'cascade' }),
    emailId: ref()
      .notNull()
      .references(() => emails.id, { onDelete: 'cascade' }),
    kind: text().notNull(),
    recordId: ref().notNull(),
    rule: text().notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.repairId, t.emailId, t.kind, t.recordId] }),
    index('corrected_filings_by_rule').on(t.rule),
    index('corrected_filings_by_email').on(t.emailId),
  ],
);

/** A waiting email that was passed to a colleague to decide. */
export const deskPasses = pgTable(
  'desk_passes',
  {
    emailId: ref()
      .notNull()
      .references(() => emails.id, { onDelete: 'cascade' }),
    toUserId: ref()
      .notNull()
      .references(() => users.id),
    byUserId: ref()
      .notNull()
      .references(() => users.id),
    at: moment().notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.emailId] }), index('desk_passes_by_user').on(t.toUserId)],
);
