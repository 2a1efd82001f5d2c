import { sql } from 'drizzle-orm';
import { boolean, check, index, integer, pgTable, primaryKey, text, uniqueIndex } from 'drizzle-orm/pg-core';
import { id, moment, ref } from './columns';

export const users = pgTable(
  'users',
  {
    id: id(),
    email: text().notNull(),
    name: text().notNull(),
    role: text().notNull(),
    passwordHash: text('password_hash'),
    active: boolean().notNull().default(true),
    lastVisitAt: moment(),
    /** When an administrator deactivated the member; the member's name stays on what they did. */
    deactivatedAt: moment(),
    /** Who they are at the identity provider. */
    providerSubject: text().unique('users_provider_subject_once'),
    /** Asked for a code at sign-in; the secret lies in user_secrets. */
    secondFactor: boolean().notNull().default(false),
    /** Whether the member chose, the last time, that openings of an email are counted. */
    measuresEmails: boolean().notNull().default(false),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [
    uniqueIndex('users_email_once').on(sql`lower(${t.email})`),
    check('users_role_known', sql`${t.role} in ('admin', 'manager', 'rep', 'viewer')`),
  ],
);

export const accessTokens = pgTable('access_tokens', {
  id: id(),
  userId: ref()
    .notNull()
    .references(() => users.id, { onDelete: 'cascade' }),
  name: text().notNull(),
  tokenHash: text().notNull().unique('access_tokens_hash_once'),
  createdAt: moment().notNull().defaultNow(),
  lastUsedAt: moment(),
  revokedAt: moment(),
  /** What it may do: `read`, or `read` and `write`, `admin` for what administrators alone may, and `send` for sending emails. */
  scopes: text()
    .array()
    .notNull()
    .default(sql`'{read,write,admin}'`),
  expiresAt: moment(),
});

/** Secrets of members: the key of the second factor, sealed; hashes of recovery codes. No request of a member reads them. */
export const userSecrets = pgTable('user_secrets', {
  userId: ref()
    .primaryKey()
    .references(() => users.id, { onDelete: 'cascade' }),
  sealedKey: text().notNull(),
  recoveryHashes: text()
    .array()
    .notNull()
    .default(sql`'{}'`),
  /** The last time step whose code was taken: no code is good twice. */
  lastStep: integer().notNull().default(0),
});

/** Someone is asked to join; the link is known to them alone. */
export const invitations = pgTable('invitations', {
  id: id(),
  email: text().notNull(),
  name: text().notNull(),
  role: text().notNull(),
  tokenHash: text().notNull().unique('invitations_token_once'),
  invitedBy: ref()
    .notNull()
    .references(() => users.id),
  at: moment().notNull().defaultNow(),
  expiresAt: moment().notNull(),
  acceptedAt: moment(),
  withdrawnAt: moment(),
});

/** A group of members, to which rules and shares refer by its name. */
export const teams = pgTable(
  'teams',
  {
    id: id(),
    name: text().notNull(),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [uniqueIndex('teams_name_once').on(sql`lower(${t.name})`)],
);

export const teamMembers = pgTable(
  'team_members',
  {
    teamId: ref()
      .notNull()
      .references(() => teams.id, { onDelete: 'cascade' }),
    userId: ref()
      .notNull()
      .references(() => users.id, { onDelete: 'cascade' }),
  },
  (t) => [primaryKey({ columns: [t.teamId, t.userId] }), index('team_members_by_user').on(t.userId)],
);

/** Failed attempts to get in, by a hash of what was tried: an address, an account, an IP address. */
export const signInAttempts = pgTable('sign_in_attempts', {
  keyHash: text().primaryKey(),
  failures: integer().notNull(),
  since: moment().notNull(),
});

/** Who gave an account its life or its powers: created or invited it, changed its role, set its password, took its second factor off, let it in again. */
export const accountPowers = pgTable(
  'account_powers',
  {
    id: id(),
    userId: ref()
      .notNull()
      .references(() => users.id),
    byId: ref()
      .notNull()
      .references(() => users.id),
    at: moment().notNull().defaultNow(),
  },
  (t) => [index('account_powers_by_user').on(t.userId, t.byId)],
);
