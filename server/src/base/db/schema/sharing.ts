import { sql } from 'drizzle-orm';
import { boolean, check, index, integer, pgTable, primaryKey, text } from 'drizzle-orm/pg-core';
import { id, moment, ref } from './columns';
import { isRecordKind } from './recordKeys';
import { emails } from './emails';
import { deals } from './records';
import { users } from './team';

export const byUser = () =>
  ref()
    .notNull()
    .references(() => users.id);

const ofEmail = () => ref().references(() => emails.id, { onDelete: 'cascade' });

/** What the owner of a mailbox says of mail in it, beside the rules: who sees it, or that no one else does. */
export const sharingChoices = pgTable(
  'sharing_choices',
  {
    id: id(),
    userId: byUser(),
    does: text().notNull(),
    scope: text().notNull(),
    /** The email, or one of the conversation. */
    emailId: ofEmail(),
    /** An address or a domain. */
    value: text(),
    /** For a share: as emails.visibility says it. */
    level: text(),
    teams: text()
      .array()
      .notNull()
      .default(sql`'{}'`),
    existenceOnly: boolean().notNull().default(false),
    /** Of mail up to this time only; null: for always. */
    until: moment(),
    at: moment().notNull().defaultNow(),
    withdrawnAt: moment(),
  },
  (t) => [
    index('sharing_choices_standing')
      .on(t.userId)
      .where(sql`${t.withdrawnAt} is null`),
    check('sharing_choices_deed_known', sql`${t.does} in ('seal', 'share')`),
    check('sharing_choices_scope_known', sql`${t.scope} in ('email', 'conversation', 'person', 'domain')`),
    check(
      'sharing_choices_level_known',
      sql`${t.level} in ('owner', 'record', 'teams', 'everyone') and (${t.does} = 'share') = (${t.level} is not null)`,
    ),
    check(
      'sharing_choices_about',
      sql`(${t.scope} in ('email', 'conversation')) = (${t.emailId} is not null) and (${t.scope} in ('person', 'domain')) = (${t.value} is not null)`,
    ),
  ],
);

/** Someone's mail that its owner lets one colleague read. */
export const grants = pgTable(
  'grants',
  {
    id: id(),
    /** Whose mail: it covers what lies in mailboxes that this member uses. */
    byUserId: byUser(),
    toUserId: byUser(),
    scope: text().notNull(),
    emailId: ofEmail(),
    recordKind: text(),
    recordId: ref(),
    at: moment().notNull().defaultNow(),
    withdrawnAt: moment(),
  },
  (t) => [
    index('grants_standing')
      .on(t.byUserId)
      .where(sql`${t.withdrawnAt} is null`),
    index('grants_by_email').on(t.emailId),
    index('grants_by_record').on(t.recordKind, t.recordId),
    check('grants_scope_known', sql`${t.scope} in ('email', 'conversation', 'record')`),
    check(
      'grants_about',
      sql`(${t.scope} = 'record') = (${t.recordId} is not null and ${isRecordKind(t.recordKind)}) and (${t.scope} <> 'record') = (${t.emailId} is not null)`,
    ),
  ],
);

/** A colleague asks an owner to let them read. */
export const accessRequests = pgTable(
  'access_requests',
  {
    id: id(),
    askedBy: byUser(),
    ownerId: byUser(),
    scope: text().notNull(),
    emailId: ofEmail(),
    recordKind: text(),
    recordId: ref(),
    note: text().notNull().default(''),
    at: moment().notNull().defaultNow(),
    state: text().notNull().default('open'),
    answeredAt: moment(),
    grantId: ref().references(() => grants.id, { onDelete: 'set null' }),
  },
  (t) => [
    index('access_requests_of_owner')
      .on(t.ownerId)
      .where(sql`${t.state} = 'open'`),
    index('access_requests_by_asker').on(t.askedBy, t.id),
    check('access_requests_state_known', sql`${t.state} in ('open', 'shared', 'declined', 'withdrawn')`),
    check('access_requests_scope_known', sql`${t.scope} in ('email', 'conversation', 'record')`),
  ],
);

/** Reading someone's mail in an emergency: two persons, for a time, and the owner is told. */
export const emergencies = pgTable(
  'emergencies',
  {
    id: id(),
    ownerId: byUser(),
    askedBy: byUser(),
    reason: text().notNull(),
    hours: integer().notNull(),
    askedAt: moment().notNull().defaultNow(),
    confirmedBy: ref().references(() => users.id),
    confirmedAt: moment(),
    until: moment(),
    endedAt: moment(),
    endedBy: ref().references(() => users.id),
  },
  (t) => [
    index('emergencies_by_reader').on(t.askedBy, t.until),
    check('emergencies_by_two', sql`${t.confirmedBy} is null or ${t.confirmedBy} <> ${t.askedBy}`),
    check('emergencies_hours', sql`${t.hours} between 1 and 72`),
    check('emergencies_confirmed', sql`(${t.confirmedBy} is null) = (${t.until} is null)`),
  ],
);

/** Members who work on a deal beside its owner. */
export const dealTeam = pgTable(
  'deal_team',
  {
    dealId: ref()
      .notNull()
      .references(() => deals.id, { onDelete: 'cascade' }),
    userId: ref()
      .notNull()
      .references(() => users.id, { onDelete: 'cascade' }),
    at: moment().notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.dealId, t.userId] }), index('deal_team_by_user').on(t.userId)],
);
