import { sql } from 'drizzle-orm';
import { bigint, boolean, check, index, integer, jsonb, pgTable, primaryKey, text, uniqueIndex } from 'drizzle-orm/pg-core';
import { id, moment, ref } from './columns';
import { mailboxes } from './mailboxes';
import { deals } from './records';
import { users } from './team';

export const rulebooks = pgTable(
  'rulebooks',
  {
    version: integer().primaryKey(),
    document: jsonb().$type<unknown>().notNull(),
    summary: text().notNull(),
    createdBy: ref().references(() => users.id),
    createdAt: moment().notNull().defaultNow(),
    /** Set for a version that is in force for the mail of these mailboxes only, tried before everyone gets it. */
    pilotMailboxes: text().array(),
    pilotEndedAt: moment(),
  },
  (t) => [
    uniqueIndex('rulebooks_one_pilot')
      .on(sql`(true)`)
      .where(sql`${t.pilotMailboxes} is not null and ${t.pilotEndedAt} is null`),
  ],
);

/** A keep-out that can be taken back as one step. */
export const undoSteps = pgTable('undo_steps', {
  id: id(),
  userId: ref()
    .notNull()
    .references(() => users.id),
  summary: text().notNull(),
  entryId: text().notNull(),
  createdAt: moment().notNull().defaultNow(),
  undoneAt: moment(),
});

export const imports = pgTable(
  'imports',
  {
    id: id(),
    mailboxId: ref()
      .notNull()
      .references(() => mailboxes.id),
    userId: ref()
      .notNull()
      .references(() => users.id),
    fileNames: text()
      .array()
      .notNull()
      .default(sql`'{}'`),
    totalBytes: bigint({ mode: 'number' }).notNull().default(0),
    state: text().notNull().default('open'),
    phase: text().notNull().default('reading'),
    readBytes: bigint({ mode: 'number' }).notNull().default(0),
    counts: jsonb().$type<Record<string, number>>().notNull().default({}),
    message: text().notNull().default(''),
    cancelAsked: boolean().notNull().default(false),
    createdAt: moment().notNull().defaultNow(),
    startedAt: moment(),
    finishedAt: moment(),
  },
  (t) => [
    index('imports_by_time').on(t.createdAt.desc()),
    check('imports_state_known', sql`${t.state} in ('open', 'queued', 'running', 'done', 'cancelled', 'failed')`),
  ],
);

/** A run over stored mail with the rulebook in force. */
export const decideRuns = pgTable(
  'decide_runs',
  {
    id: id(),
    userId: ref()
      .notNull()
      .references(() => users.id),
    state: text().notNull().default('queued'),
    done: integer().notNull().default(0),
    total: integer().notNull().default(0),
    changed: integer().notNull().default(0),
    message: text().notNull().default(''),
    cancelAsked: boolean().notNull().default(false),
    /** Over mail from this time on, and in these mailboxes; null and none: all. */
    since: moment(),
    mailboxes: text()
      .array()
      .notNull()
      .default(sql`'{}'`),
    /** Takes back the records that mail created, that nobody has touched since, and that the rulebook would not create. */
    withoutMade: boolean().notNull().default(false),
    takenBack: integer().notNull().default(0),
    /** deciding: changes nothing yet. writing: all that changes is put in place as one step. */
    phase: text().notNull().default('deciding'),
    /** The rulebook version that it decided by. */
    version: integer(),
    undoneAt: moment(),
    createdAt: moment().notNull().defaultNow(),
    finishedAt: moment(),
  },
  (t) => [check('decide_runs_state_known', sql`${t.state} in ('queued', 'running', 'done', 'cancelled', 'failed')`)],
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

/** What became of each message of an import. */
export const importItems = pgTable(
  'import_items',
  {
    importId: ref()
      .notNull()
      .references(() => imports.id, { onDelete: 'cascade' }),
    position: integer().notNull(),
    file: text().notNull(),
    result: text().notNull(),
    emailId: ref(),
    problems: jsonb().$type<{ code: string; message: string }[]>().notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.importId, t.position] }),
    check('import_items_result_known', sql`${t.result} in ('new', 'other sighting', 'known', 'unreadable')`),
  ],
);

/** Deals of which it was learnt late when they were written about: emails after that time whose deal goes by score are to be decided anew. */
export const lateActivity = pgTable('late_activity', {
  dealId: ref()
    .primaryKey()
    .references(() => deals.id, { onDelete: 'cascade' }),
  /** The earliest time of what was learnt. */
  since: moment().notNull(),
  /** When it was learnt last. */
  touchedAt: moment().notNull().defaultNow(),
});
