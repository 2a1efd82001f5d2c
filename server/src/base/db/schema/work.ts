import { sql } from 'drizzle-orm';
import { bigint, boolean, check, index, integer, pgTable, text } from 'drizzle-orm/pg-core';
import { id, moment } from './columns';

/** Work that goes on in the background: how far it is, whether it is to end, and how it ended. What it is about is told by the row that refers to it. */
export const work = pgTable(
  'work',
  {
    id: id(),
    kind: text().notNull(),
    /** open: not asked for yet. queued: waits for its turn, or for room to go on. */
    state: text().notNull().default('queued'),
    /** What it is doing, where it does one thing after another. */
    phase: text().notNull().default(''),
    done: bigint({ mode: 'number' }).notNull().default(0),
    total: bigint({ mode: 'number' }).notNull().default(0),
    message: text().notNull().default(''),
    cancelAsked: boolean().notNull().default(false),
    /** How often a process ended while it was at this work. */
    interruptions: integer().notNull().default(0),
    createdAt: moment().notNull().defaultNow(),
    startedAt: moment(),
    finishedAt: moment(),
  },
  (t) => [
    index('work_unfinished')
      .on(t.kind)
      .where(sql`${t.state} in ('queued', 'running')`),
    check('work_kind_known', sql`${t.kind} in ('import', 'trial', 'past run')`),
    check('work_state_known', sql`${t.state} in ('open', 'queued', 'running', 'done', 'cancelled', 'failed')`),
  ],
);
