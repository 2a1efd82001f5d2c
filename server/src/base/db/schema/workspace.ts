import { sql } from 'drizzle-orm';
import { bigint, boolean, check, index, integer, jsonb, pgTable, text, uniqueIndex } from 'drizzle-orm/pg-core';
import { id, moment, ref } from './columns';
import { byUser } from './sharing';
import { users } from './team';

/** What people did with others' mail and with the workspace. Each entry carries the hash of the one before it. */
export const auditLog = pgTable(
  'audit_log',
  {
    id: id(),
    /** `workspace`, or `user N` for what only that member is to know. */
    chain: text().notNull(),
    /** Place in its chain, from 1. */
    place: bigint({ mode: 'number' }).notNull(),
    at: moment().notNull(),
    actorId: ref(),
    actor: text().notNull(),
    kind: text().notNull(),
    about: text().notNull(),
    /** The email that it is about; the entry is seen by those who may know of that. */
    emailId: ref(),
    /** The member whom it concerns: whose mail was read, whose password was set. */
    subjectId: ref(),
    previous: text().notNull(),
    hash: text().notNull(),
  },
  (t) => [
    uniqueIndex('audit_log_chained').on(t.chain, t.place),
    index('audit_log_by_time').on(t.at, t.id),
    index('audit_log_by_subject').on(t.subjectId),
    index('audit_log_by_actor').on(t.actorId),
  ],
);

/** Someone outside who was forgotten: a salted hash of each address, so that they stay out without being known. */
export const forgotten = pgTable('forgotten', {
  hash: text().primaryKey(),
  erasureId: ref().notNull(),
});

/** What was erased, without saying of whom. */
export const erasures = pgTable('erasures', {
  id: id(),
  at: moment().notNull().defaultNow(),
  byUserId: byUser(),
  /** Reference that the person was given; not their name. */
  reference: text().notNull().default(''),
  /** Counts of what went, by what it was. */
  counts: jsonb().$type<Record<string, number>>().notNull(),
  salt: text().notNull(),
  certificate: text().notNull(),
});

/** How long kinds of mail are kept. */
export const retention = pgTable(
  'retention',
  {
    kind: text().primaryKey(),
    /** Null: for ever. */
    days: integer(),
    changedBy: ref().references(() => users.id),
    changedAt: moment().notNull().defaultNow(),
    lastRunAt: moment(),
  },
  (t) => [
    check('retention_kind_known', sql`${t.kind} in ('keptOut', 'unfiled', 'closedDeals')`),
    check('retention_days', sql`${t.days} between 1 and 36500`),
  ],
);

/** One row: the installation. */
export const workspace = pgTable(
  'workspace',
  {
    id: integer().primaryKey().default(1),
    name: text().notNull(),
    createdAt: moment().notNull().defaultNow(),
    /** Whose records a member sees: everybody's, those of the teams they are in, or their own. */
    recordReach: text().notNull().default('all'),
    /** How wide the owner of a mailbox may share by hand. */
    widestShare: text().notNull().default('everyone'),
    /** Passwords alone are not enough: every member sets up a second factor. */
    secondFactorNeeded: boolean().notNull().default(false),
    /** Where members sign in beside by password: issuer, client id and the button's label. The secret lies in workspace_secrets. */
    identityProvider: jsonb().$type<{ issuer: string; clientId: string; label: string } | null>(),
    /** The address under which recipients reach the installation; links to documents begin with it. Null: there are no links. */
    linkAddress: text(),
    /** Who may send emails from here, share texts and documents, send to many at once, and see whether emails were opened: the least role, and teams of which one is needed; none: any. */
    writingRights: jsonb()
      .$type<Record<'send' | 'share' | 'bulk' | 'measure', { role: string; teamIds: number[] }>>()
      .notNull()
      .default({
        send: { role: 'rep', teamIds: [] },
        share: { role: 'manager', teamIds: [] },
        bulk: { role: 'manager', teamIds: [] },
        measure: { role: 'manager', teamIds: [] },
      }),
    /** What holds for emails that are sent by themselves: days on which no one works, how many a mailbox sends in a day, and whether all are held. */
    automatic: jsonb()
      .$type<{ holidays: { day: string; name: string }[]; perDay: number; pauseSeconds: number; isHeld: boolean }>()
      .notNull()
      .default({ holidays: [], perDay: 50, pauseSeconds: 15, isHeld: false }),
    /** Whether openings of emails are counted: the notice that recipients get, who decided it, whose are never counted, and how long counts are kept. */
    measuring: jsonb()
      .$type<{
        isOn: boolean;
        notice: string;
        keepDays: number;
        ownRanges: string[];
        never: string[];
        decided: { name: string; at: string } | null;
      }>()
      .notNull()
      .default({ isOn: false, notice: '', keepDays: 90, ownRanges: [], never: [], decided: null }),
    /** What the check of such an address asks for, and what the installation answers. */
    linkProof: jsonb().$type<{ asked: string; answer: string } | null>(),
  },
  (t) => [
    check('workspace_is_one', sql`${t.id} = 1`),
    check('workspace_record_reach_known', sql`${t.recordReach} in ('all', 'team', 'owner')`),
    check('workspace_widest_share_known', sql`${t.widestShare} in ('owner', 'record', 'teams', 'everyone')`),
  ],
);

/** Secrets of the installation, sealed. */
export const workspaceSecrets = pgTable('workspace_secrets', {
  name: text().primaryKey(),
  sealed: text().notNull(),
});
