import { index, jsonb, pgTable, text } from 'drizzle-orm/pg-core';
import { id, moment, ref } from './columns';
import { users } from './team';

/** Steps of members that can be undone. */
export const undoLog = pgTable(
  'undo_log',
  {
    id: id(),
    userId: ref()
      .notNull()
      .references(() => users.id),
    at: moment().notNull().defaultNow(),
    /** Which undoer takes it back. */
    kind: text().notNull(),
    summary: text().notNull(),
    /** What its undoer needs to know, in its own form. */
    payload: jsonb().notNull(),
    undoneAt: moment(),
    undoneBy: ref().references(() => users.id),
  },
  (t) => [index('undo_log_by_member').on(t.userId, t.id)],
);
