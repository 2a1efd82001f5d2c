import { sql } from 'drizzle-orm';
import { bigint, boolean, index, integer, jsonb, pgTable, primaryKey, text, uniqueIndex } from 'drizzle-orm/pg-core';
import { work } from './work';
import { id, moment, ref } from './columns';
import { emails } from './emails';
import { users } from './team';

/** A draft run over past mail and compared with what stands. */
export const trials = pgTable(
  'trials',
  {
    id: id(),
    workId: ref()
      .notNull()
      .references(() => work.id, { onDelete: 'cascade' }),
    name: text().notNull(),
    userId: ref()
      .notNull()
      .references(() => users.id),
    document: jsonb().$type<unknown>().notNull(),
    baseVersion: integer().notNull(),
    since: moment(),
    mailboxes: text()
      .array()
      .notNull()
      .default(sql`'{}'`),
    /** Decided as if the records that mail created, and that no one has touched since, were not there. */
    withoutMade: boolean().notNull().default(false),
    summary: jsonb().$type<unknown>(),
  },
  (t) => [uniqueIndex('trials_work_once').on(t.workId)],
);

/** What a trial would decide otherwise, one email a row; no names, no text. */
export const trialRows = pgTable(
  'trial_rows',
  {
    trialId: ref()
      .notNull()
      .references(() => trials.id, { onDelete: 'cascade' }),
    emailId: ref()
      .notNull()
      .references(() => emails.id, { onDelete: 'cascade' }),
    outcomeBefore: text(),
    outcomeAfter: text().notNull(),
    visibilityBefore: text().notNull(),
    visibilityAfter: text().notNull(),
    /** Whether colleagues would see more of it, `newly`, or less, `no longer`. */
    seen: text(),
    /** The first step that says something else. */
    step: text(),
    /** Filings that are new and that are gone, as `kind:id`; a record that would be created has a negative id. */
    won: text()
      .array()
      .notNull()
      .default(sql`'{}'`),
    lost: text()
      .array()
      .notNull()
      .default(sql`'{}'`),
  },
  (t) => [primaryKey({ columns: [t.trialId, t.emailId] }), index('trial_rows_by_outcome').on(t.trialId, t.outcomeBefore, t.outcomeAfter)],
);

/** Emails that a trial counted and of which nothing would change, together with those that it counted alike. Read by no one but who takes sealed mail out of the sums. */
export const trialCounted = pgTable(
  'trial_counted',
  {
    id: id(),
    trialId: ref()
      .notNull()
      .references(() => trials.id, { onDelete: 'cascade' }),
    outcome: text(),
    direction: text(),
    steps: jsonb().$type<unknown[]>().notNull(),
    emailIds: bigint({ mode: 'number' }).array().notNull(),
  },
  (t) => [index('trial_counted_by_trial').on(t.trialId)],
);

/** The records that a trial took as not there, and whether the draft created them again. */
export const trialMade = pgTable(
  'trial_made',
  {
    trialId: ref()
      .notNull()
      .references(() => trials.id, { onDelete: 'cascade' }),
    kind: text().notNull(),
    recordId: ref().notNull(),
    /** The email that the record was created from: who may not know of the one is not told of the other. */
    emailId: ref()
      .notNull()
      .references(() => emails.id, { onDelete: 'cascade' }),
    again: boolean().notNull(),
  },
  (t) => [primaryKey({ columns: [t.trialId, t.kind, t.recordId] })],
);

/** The decisions that a trial would write: what they say of people is for those who may read the email. */
export const trialDockets = pgTable(
  'trial_dockets',
  {
    trialId: ref()
      .notNull()
      .references(() => trials.id, { onDelete: 'cascade' }),
    emailId: ref()
      .notNull()
      .references(() => emails.id, { onDelete: 'cascade' }),
    docket: jsonb().$type<unknown[]>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.trialId, t.emailId] })],
);
