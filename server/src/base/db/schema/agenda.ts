import { sql } from 'drizzle-orm';
import { boolean, check, index, integer, jsonb, pgTable, text } from 'drizzle-orm/pg-core';
import { id, moment, ref } from './columns';
import { users } from './team';

/** What members are to do. */
export const tasks = pgTable(
  'tasks',
  {
    id: id(),
    text: text().notNull(),
    details: text().notNull().default(''),
    /** `2026-12-24`, by the clock of its zone; null: at any time. */
    dueDay: text(),
    /** `09:30`; null: at any time of that day. */
    dueTime: text(),
    zone: text().notNull().default('UTC'),
    /** When its day begins. */
    dayAt: moment(),
    /** When it is late. */
    dueAt: moment(),
    /** The first day of the row of days on which it comes back. */
    firstDay: text(),
    repeat: jsonb().$type<{ every: number; unit: 'day' | 'week' | 'month' | 'year' }>(),
    assigneeId: ref()
      .notNull()
      .references(() => users.id),
    writerId: ref()
      .notNull()
      .references(() => users.id),
    isPrivate: boolean().notNull().default(false),
    /** It stays when the email is erased: who could not read the email does not read the task then, either. */
    emailId: ref(),
    endsBy: text(),
    /** Mail and entries from then on end it. */
    since: moment().notNull().defaultNow(),
    doneAt: moment(),
    doneBy: ref().references(() => users.id),
    removedAt: moment(),
    revision: integer().notNull().default(0),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [
    index('tasks_open')
      .on(t.assigneeId, t.dueAt)
      .where(sql`${t.doneAt} IS NULL AND ${t.removedAt} IS NULL`),
    index('tasks_done')
      .on(t.assigneeId, t.doneAt)
      .where(sql`${t.doneAt} IS NOT NULL`),
    index('tasks_by_writer').on(t.writerId),
    index('tasks_of_email').on(t.emailId),
    index('tasks_done_by').on(t.doneBy),
    check('tasks_ends_known', sql`${t.endsBy} in ('our answer', 'their answer', 'meeting')`),
    check('tasks_due_whole', sql`(${t.dueDay} is null) = (${t.dueAt} is null) and (${t.dueDay} is null) = (${t.dayAt} is null)`),
  ],
);

/** The records that a task is about. */
export const taskRecords = pgTable(
  'task_records',
  {
    id: id(),
    taskId: ref()
      .notNull()
      .references(() => tasks.id, { onDelete: 'cascade' }),
    kind: text().notNull(),
    recordId: ref().notNull(),
  },
  (t) => [index('task_records_of').on(t.taskId), index('task_records_by_record').on(t.kind, t.recordId)],
);
