import { sql } from 'drizzle-orm';
import type { AnyPgColumn } from 'drizzle-orm/pg-core';
import { boolean, check, index, integer, jsonb, pgTable, primaryKey, text, uniqueIndex } from 'drizzle-orm/pg-core';
import { id, moment, ref } from './columns';
import { emails } from './emails';
import { mailboxes } from './mailboxes';
import { teams, users } from './team';
import { outgoing } from './writing';

/** A step as it is stored: an email by a template, or a task in words. */
export interface StoredStep {
  kind: 'email' | 'task';
  waitDays: number;
  templateId: number | null;
  text: string;
}

/** Emails and tasks that follow each other after so many working days, as long as no one answers. */
export const series = pgTable(
  'series',
  {
    id: id(),
    ownerId: ref()
      .notNull()
      .references(() => users.id),
    scope: text().notNull().default('own'),
    teamId: ref().references(() => teams.id, { onDelete: 'set null' }),
    language: text().notNull().default(''),
    name: text().notNull(),
    steps: jsonb().$type<StoredStep[]>().notNull(),
    revision: integer().notNull().default(0),
    removedAt: moment(),
    createdAt: moment().notNull().defaultNow(),
    changedAt: moment().notNull().defaultNow(),
  },
  (t) => [index('series_by_owner').on(t.ownerId), check('series_scope_known', sql`${t.scope} in ('own', 'team', 'all')`)],
);

/** A series with one person. It goes by the steps that the series had when it began. Seen by whoever sends it alone. */
export const seriesRuns = pgTable(
  'series_runs',
  {
    id: id(),
    /** Null: an email to many. */
    seriesId: ref().references(() => series.id),
    bulkId: ref().references((): AnyPgColumn => bulkSends.id, { onDelete: 'set null' }),
    /** As the series was called when it began. */
    seriesName: text().notNull(),
    writerId: ref()
      .notNull()
      .references(() => users.id),
    mailboxId: ref()
      .notNull()
      .references(() => mailboxes.id),
    fromAddress: text(),
    /** To whom; empty once they were erased. */
    address: text().notNull(),
    name: text().notNull().default(''),
    /** The emails are filed under it, and nothing more is sent when it is closed. */
    dealId: ref(),
    /** By whose clock the days are counted. */
    zone: text().notNull(),
    asks: boolean().notNull().default(true),
    steps: jsonb().$type<StoredStep[]>().notNull(),
    atStep: integer().notNull().default(0),
    state: text().notNull().default('waiting'),
    dueAt: moment().notNull(),
    why: text(),
    /** What whoever sends it is to know, in words. */
    problem: text().notNull().default(''),
    /** The email that stopped it. */
    stoppedByEmail: ref().references(() => emails.id, { onDelete: 'set null' }),
    /** When it is looked at next; while a process is at it, when another may take it over. */
    lookAt: moment().notNull(),
    startedAt: moment().notNull().defaultNow(),
    /** The newest email that was stored then: clocks of mail servers may be slow, an answer has a higher id. */
    afterEmail: ref().notNull().default(0),
    endedAt: moment(),
  },
  (t) => [
    index('series_runs_by_writer').on(t.writerId, t.state),
    index('series_runs_by_series').on(t.seriesId),
    index('series_runs_by_bulk').on(t.bulkId),
    index('series_runs_open')
      .on(t.lookAt)
      .where(sql`${t.state} not in ('ended', 'stopped')`),
    // No one gets two series at once, whoever sends them.
    uniqueIndex('series_runs_once_for_person')
      .on(t.address)
      .where(sql`${t.state} not in ('ended', 'stopped')`),
    check('series_runs_state_known', sql`${t.state} in ('waiting', 'preparing', 'to look at', 'to do', 'sending', 'ended', 'stopped')`),
  ],
);

/** Steps that were begun with someone, each once. */
export const seriesSteps = pgTable(
  'series_steps',
  {
    runId: ref()
      .notNull()
      .references(() => seriesRuns.id, { onDelete: 'cascade' }),
    step: integer().notNull(),
    outgoingId: ref().references(() => outgoing.id, { onDelete: 'set null' }),
    messageId: text(),
    subject: text().notNull().default(''),
    begunAt: moment().notNull(),
    doneAt: moment(),
  },
  (t) => [
    primaryKey({ name: 'series_steps_once', columns: [t.runId, t.step] }),
    index('series_steps_by_outgoing').on(t.outgoingId),
    index('series_steps_by_begun').on(t.begunAt),
  ],
);

/** An email by one template to many people, each their own: a series of one step with each. */
export const bulkSends = pgTable(
  'bulk_sends',
  {
    id: id(),
    writerId: ref()
      .notNull()
      .references(() => users.id),
    name: text().notNull(),
    total: integer().notNull(),
    /** How many were left out, by why. */
    leftOut: jsonb().$type<Record<string, number>>().notNull(),
    stoppedAt: moment(),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [index('bulk_sends_by_writer').on(t.writerId)],
);

/** Addresses that want no emails that are sent by themselves. */
export const unsubscribes = pgTable('unsubscribes', {
  address: text().primaryKey(),
  at: moment().notNull().defaultNow(),
});

/** What stands in such an email to unsubscribe: the hash of its token, and whom it unsubscribes. */
export const unsubscribeLinks = pgTable(
  'unsubscribe_links',
  {
    tokenHash: text().primaryKey(),
    address: text().notNull(),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [index('unsubscribe_links_by_address').on(t.address)],
);
