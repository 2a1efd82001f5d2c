import { sql } from 'drizzle-orm';
import { boolean, check, index, integer, jsonb, pgTable, text } from 'drizzle-orm/pg-core';
import { id, moment, ref } from './columns';
import { users } from './team';

/** What members write down of contact that is not mail: calls, meetings, letters, messages elsewhere, and notes. */
export const activities = pgTable(
  'activities',
  {
    id: id(),
    kind: text().notNull(),
    at: moment().notNull(),
    /** Who reached whom; of a note: null. */
    direction: text(),
    text: text().notNull(),
    /** For its writer alone; else for whoever may see one of its records. */
    isPrivate: boolean().notNull().default(false),
    writerId: ref()
      .notNull()
      .references(() => users.id),
    revision: integer().notNull().default(0),
    removedAt: moment(),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [
    index('activities_by_writer').on(t.writerId),
    check('activities_kind_known', sql`${t.kind} in ('call', 'meeting', 'letter', 'message', 'note')`),
    check('activities_direction_known', sql`${t.direction} in ('sent', 'received', 'both')`),
    check('activities_note_has_none', sql`(${t.kind} = 'note') = (${t.direction} is null)`),
  ],
);

/** The records that it is about. */
export const activityRecords = pgTable(
  'activity_records',
  {
    id: id(),
    activityId: ref()
      .notNull()
      .references(() => activities.id, { onDelete: 'cascade' }),
    kind: text().notNull(),
    recordId: ref().notNull(),
  },
  (t) => [index('activity_records_of').on(t.activityId), index('activity_records_by_record').on(t.kind, t.recordId)],
);

/** What it said before each change. */
export const activityChanges = pgTable(
  'activity_changes',
  {
    id: id(),
    activityId: ref()
      .notNull()
      .references(() => activities.id, { onDelete: 'cascade' }),
    at: moment().notNull().defaultNow(),
    /** It was for its writer alone then, and what it said still is. */
    wasPrivate: boolean().notNull(),
    before: jsonb().$type<{ kind: string; at: string; direction: string | null; text: string }>().notNull(),
  },
  (t) => [index('activity_changes_of').on(t.activityId)],
);
