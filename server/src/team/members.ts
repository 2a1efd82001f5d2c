import { accountPowers } from '../base/db/schema';
import { z } from 'zod';
import { idRow, moment, rowsOf } from '../base/db/rows';
import { ROLES } from '@fulvet/contract';
import { Refusal, notFound } from '../base/refusal';
import type { Invitation, TeamMember, User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { createHash } from 'node:crypto';
import type { Db, Tx } from '../base/db/database';

export const INVITED_DAYS = 7;

export const hashOf = (token: string): string => createHash('sha256').update(`invitation ${token}`).digest('hex');

const invitationRow = z.object({ id: z.number(), email: z.string(), name: z.string(), role: z.enum(ROLES), by: z.string() });

export async function openInvitation(
  db: Db | Tx,
  token: string,
): Promise<{ id: number; email: string; name: string; role: User['role']; by: string } | Refusal> {
  const rows = await rowsOf(
    db,
    invitationRow,
    sql`
    SELECT i.id, i.email, i.name, i.role, u.name AS by FROM invitations i JOIN users u ON u.id = i.invited_by
    WHERE i.token_hash = ${hashOf(token)} AND i.accepted_at IS NULL AND i.withdrawn_at IS NULL AND i.expires_at > now()`,
  );
  if (!rows[0])
    return new Refusal(
      'unknown',
      'bad-invitation',
      'This link is no longer valid: it was used or withdrawn, or it is more than a week old. Ask for a new one.',
    );
  return rows[0];
}

const invitationsRow = z.object({
  id: z.number(),
  email: z.string(),
  name: z.string(),
  role: z.enum(ROLES),
  by: z.string(),
  at: moment,
  expires_at: moment,
  state: z.enum(['open', 'withdrawn', 'accepted', 'expired']),
});

export async function invitationsOf(tx: Tx): Promise<Invitation[]> {
  const rows = await rowsOf(
    tx,
    invitationsRow,
    sql`
    SELECT i.id, i.email, i.name, i.role, u.name AS by, i.at, i.expires_at, CASE WHEN i.accepted_at IS NOT NULL THEN 'accepted' WHEN i.withdrawn_at IS NOT NULL THEN 'withdrawn' WHEN i.expires_at < now() THEN 'expired' ELSE 'open' END AS state
    FROM invitations i JOIN users u ON u.id = i.invited_by ORDER BY i.id DESC LIMIT 200`,
  );
  return rows.map(({ expires_at: expiresAt, ...row }) => ({
    ...row,
    at: row.at,
    expiresAt,
  }));
}

export async function insertMember(
  tx: Tx,
  body: Pick<User, 'email' | 'name' | 'role'>,
  passwordHash: string | null,
): Promise<number | Refusal> {
  const rows = await rowsOf(
    tx,
    idRow,
    sql`INSERT INTO users (email, name, role, password_hash) VALUES (${body.email}, ${body.name}, ${body.role}, ${passwordHash}) ON CONFLICT (lower(email)) DO NOTHING RETURNING id`,
  );
  const id = rows[0]?.id;
  if (id === undefined)
    return new Refusal('conflict', 'exists', `${body.email} is on the team already.`, { email: 'is on the team already' });
  return id;
}

/** Whoever has power over an account is no second person beside it for a while, as emergencies ask. */
export async function notePower(tx: Tx, byId: number, userId: number): Promise<void> {
  await tx.insert(accountPowers).values({ userId, byId });
}

/** The workspace is never left without an administrator. */
export async function demandOtherAdmin(tx: Tx, member: TeamMember): Promise<Refusal | null> {
  if (member.role !== 'admin' || !member.active) return null;
  const { rowCount } = await tx.execute(sql`SELECT FROM users WHERE role = 'admin' AND active AND id <> ${member.id}`);
  if (rowCount === 0)
    return new Refusal('conflict', 'last-admin', `${member.name} is the only administrator. Make another member an administrator first.`);
  return null;
}

export async function memberOf(tx: Tx, id: number): Promise<TeamMember | Refusal> {
  const found = (await teamMembers(tx, true)).find((member) => member.id === id);
  if (!found) return notFound('member');
  return found;
}

const userRow = z.object({
  id: z.number(),
  email: z.string(),
  name: z.string(),
  role: z.enum(ROLES),
  has_password: z.boolean(),
  active: z.boolean(),
  second_factor: z.boolean(),
});

export async function teamMembers(db: Db | Tx, forAdmin: boolean): Promise<TeamMember[]> {
  const rows = await rowsOf(
    db,
    userRow,
    sql`SELECT id, email, name, role, password_hash IS NOT NULL AS has_password, active, second_factor FROM users WHERE active OR ${forAdmin} ORDER BY active DESC, name`,
  );
  return rows.map((row) => ({
    id: row.id,
    email: row.email,
    name: row.name,
    role: row.role,
    mailboxes: [],
    hasPassword: forAdmin && row.has_password,
    active: row.active,
    secondFactor: forAdmin && row.second_factor,
  }));
}
