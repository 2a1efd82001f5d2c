import { sql } from 'drizzle-orm';
import { boolean, check, index, integer, pgTable, primaryKey, text, uniqueIndex } from 'drizzle-orm/pg-core';
import { id, moment, ref } from './columns';

/** One row: the installation. */
export const workspace = pgTable(
  'workspace',
  {
    id: integer().primaryKey().default(1),
    name: text().notNull(),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [check('workspace_is_one', sql`${t.id} = 1`)],
);

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
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [
    uniqueIndex('users_email_once').on(sql`lower(${t.email})`),
    check('users_role_known', sql`${t.role} in ('admin', 'lead', 'rep', 'viewer')`),
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
