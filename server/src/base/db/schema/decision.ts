import { sql } from 'drizzle-orm';
import { boolean, check, index, integer, jsonb, pgTable, primaryKey, text, uniqueIndex } from 'drizzle-orm/pg-core';
import { work } from './work';
import { id, moment, ref } from './columns';
import { emails } from './emails';
import { deals } from './records';
import { users } from './team';

/** Records that only a sealed email had brought about, as they stood; they come back when it is unsealed. */
export const sealedRecords = pgTable(
  'sealed_records',
  {
    id: id(),
    emailId: ref()
      .notNull()
      .references(() => emails.id, { onDelete: 'cascade' }),
    kind: text().notNull(),
    recordId: ref().notNull(),
    /** Rows as they stood, by table. */
    stood: jsonb().$type<Record<string, unknown[]>>().notNull(),
  },
  (t) => [index('sealed_records_by_email').on(t.emailId), uniqueIndex('sealed_records_once').on(t.kind, t.recordId)],
);

/** Whom a member keeps out of their own mailboxes. */
export const ownKeepOuts = pgTable(
  'own_keep_outs',
  {
    id: id(),
    userId: ref()
      .notNull()
      .references(() => users.id, { onDelete: 'cascade' }),
    kind: text().notNull(),
    value: text().notNull(),
    at: moment().notNull().defaultNow(),
  },
  (t) => [
    uniqueIndex('own_keep_outs_once').on(t.userId, t.kind, t.value),
    check('own_keep_outs_kind_known', sql`${t.kind} in ('address', 'domain')`),
  ],
);

/** A run over stored mail with the rulebook in force. */
export const decideRuns = pgTable(
  'decide_runs',
  {
    id: id(),
    workId: ref()
      .notNull()
      .references(() => work.id, { onDelete: 'cascade' }),
    userId: ref()
      .notNull()
      .references(() => users.id),
    changed: integer().notNull().default(0),
    /** Over mail from this time on, and in these mailboxes; null and none: all. */
    since: moment(),
    mailboxes: text()
      .array()
      .notNull()
      .default(sql`'{}'`),
    /** Takes back the records that mail created, that no one has touched since, and that the rulebook would not create. */
    withoutMade: boolean().notNull().default(false),
    takenBack: integer().notNull().default(0),
    /** The rulebook version that it decided by. */
    version: integer(),
    undoneAt: moment(),
  },
  (t) => [uniqueIndex('decide_runs_work_once').on(t.workId)],
);

/** What stood of an email before a run decided it otherwise, so that the run can be undone. */
export const runBefores = pgTable(
  'run_befores',
  {
    runId: ref()
      .notNull()
      .references(() => decideRuns.id, { onDelete: 'cascade' }),
    emailId: ref().notNull(),
    /** Columns of the email; only its rulebook version where nothing else changed. */
    email: jsonb().$type<unknown>().notNull(),
    filings: jsonb().$type<unknown[]>(),
    docket: jsonb().$type<unknown>(),
  },
  (t) => [primaryKey({ columns: [t.runId, t.emailId] })],
);

/** What a run has decided otherwise than it stands, until all of it is put in place as one step. */
export const runStaged = pgTable(
  'run_staged',
  {
    runId: ref()
      .notNull()
      .references(() => decideRuns.id, { onDelete: 'cascade' }),
    emailId: ref().notNull(),
    /** Its place in the order of date. */
    place: integer().notNull(),
    decision: jsonb().$type<unknown>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.runId, t.emailId] }), index('run_staged_by_place').on(t.runId, t.place)],
);

/** The records that a run created. */
export const runCreated = pgTable(
  'run_created',
  {
    runId: ref()
      .notNull()
      .references(() => decideRuns.id, { onDelete: 'cascade' }),
    kind: text().notNull(),
    recordId: ref().notNull(),
  },
  (t) => [primaryKey({ columns: [t.runId, t.kind, t.recordId] })],
);

/** Records that a run took back, and those whose making it ascribed to another email, as they stood. */
export const runTakenBack = pgTable(
  'run_taken_back',
  {
    runId: ref()
      .notNull()
      .references(() => decideRuns.id, { onDelete: 'cascade' }),
    kind: text().notNull(),
    recordId: ref().notNull(),
    /** False for one that stays and was only ascribed otherwise. */
    gone: boolean().notNull(),
    /** The record, and its addresses or domains. */
    stood: jsonb().$type<unknown>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.runId, t.kind, t.recordId] })],
);

/** Deals of which it was learnt late when they were written about: emails after that time whose deal goes by score are to be decided again. */
export const lateActivity = pgTable('late_activity', {
  dealId: ref()
    .primaryKey()
    .references(() => deals.id, { onDelete: 'cascade' }),
  /** The earliest time of what was learnt. */
  since: moment().notNull(),
  /** When it was learnt last. */
  touchedAt: moment().notNull().defaultNow(),
});
