import { accessTokens, accountPowers, invitations, teamMembers as teamMembersTable, teams, userSecrets, users } from '../base/db/schema';
import { z } from 'zod';
import { idRow, json, moment, rowsOf } from '../base/db/rows';
import { ROLES } from '@fulvet/contract';
import { Refusal, notFound } from '../base/refusal';
import type { Invitation, Team, TeamMember, User } from '@fulvet/contract';
import { and, eq, isNull, sql } from 'drizzle-orm';
import { createHash } from 'node:crypto';
import type { Db, Tx } from '../base/db/database';

const INVITED_DAYS = 7;

const hashOf = (token: string): string => createHash('sha256').update(`invitation ${token}`).digest('hex');

const invitationRow = z.object({ id: z.number(), email: z.string(), name: z.string(), role: z.enum(ROLES), by: z.string() });

/** An invitation that can still be accepted, and who it is from. */
export async function openInvitation(db: Db | Tx, token: string): Promise<z.output<typeof invitationRow> | Refusal> {
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

/** Whether there is another active administrator. */
export async function hasOtherAdmin(tx: Tx, memberId: number): Promise<boolean> {
  const { rowCount } = await tx.execute(sql`SELECT FROM users WHERE role = 'admin' AND active AND id <> ${memberId}`);
  return (rowCount ?? 0) > 0;
}

/** Whoever has power over an account is no second person beside it for a while, as emergencies ask. */
export async function notePower(tx: Tx, byId: number, userId: number): Promise<void> {
  await tx.insert(accountPowers).values({ userId, byId });
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

const nameRow = z.object({ name: z.string() });

/** What the workspace is called; null where the installation is not set up yet. */
export async function workspaceName(db: Db | Tx): Promise<string | null> {
  const [workspace] = await rowsOf(db, nameRow, sql`SELECT name FROM workspace`);
  return workspace?.name ?? null;
}

export async function isOnTeam(tx: Tx, email: string): Promise<boolean> {
  const { rowCount } = await tx.execute(sql`SELECT FROM users WHERE lower(email) = lower(${email})`);
  return (rowCount ?? 0) > 0;
}

export async function updateMember(tx: Tx, id: number, { name, role }: Partial<Pick<User, 'name' | 'role'>>): Promise<void> {
  await tx.update(users).set({ name, role }).where(eq(users.id, id));
}

export async function storePassword(tx: Tx, userId: number, passwordHash: string): Promise<void> {
  await tx.update(users).set({ passwordHash }).where(eq(users.id, userId));
}

export async function activate(tx: Tx, userId: number): Promise<void> {
  await tx.update(users).set({ active: true, deactivatedAt: null }).where(eq(users.id, userId));
}

/** Revokes all access tokens of a member. @returns how many */
export async function revokeTokens(tx: Tx, userId: number): Promise<number> {
  const { rowCount } = await tx
    .update(accessTokens)
    .set({ revokedAt: sql`now()` })
    .where(and(eq(accessTokens.userId, userId), isNull(accessTokens.revokedAt)));
  return rowCount ?? 0;
}

/** Takes the second factor off a member. @returns their name, null where there is no such member */
export async function dropSecondFactor(tx: Tx, userId: number): Promise<string | null> {
  const [member] = await tx.update(users).set({ secondFactor: false }).where(eq(users.id, userId)).returning({ name: users.name });
  await tx.delete(userSecrets).where(eq(userSecrets.userId, userId));
  return member?.name ?? null;
}

/** Withdraws the open invitations of an address: a new link makes the ones before it void. */
export async function withdrawInvitationsOf(tx: Tx, email: string): Promise<void> {
  await tx.execute(
    sql`UPDATE invitations SET withdrawn_at = now() WHERE lower(email) = lower(${email}) AND accepted_at IS NULL AND withdrawn_at IS NULL`,
  );
}

/** @returns the address that was invited, null where the invitation is not open */
export async function withdrawInvitation(tx: Tx, id: number): Promise<string | null> {
  const [withdrawn] = await tx
    .update(invitations)
    .set({ withdrawnAt: sql`now()` })
    .where(and(eq(invitations.id, id), isNull(invitations.acceptedAt), isNull(invitations.withdrawnAt)))
    .returning({ email: invitations.email });
  return withdrawn?.email ?? null;
}

export async function insertInvitation(
  tx: Tx,
  byId: number,
  { email, name, role }: Pick<User, 'email' | 'name' | 'role'>,
  token: string,
): Promise<Invitation> {
  const [row] = await rowsOf(
    tx,
    idRow,
    sql`INSERT INTO invitations (email, name, role, token_hash, invited_by, expires_at) VALUES (${email}, ${name}, ${role}, ${hashOf(token)}, ${byId}, now() + make_interval(days => ${INVITED_DAYS})) RETURNING id`,
  );
  const invitation = (await invitationsOf(tx)).find((it) => it.id === row?.id);
  if (!invitation) throw new Error('the invitation is not there');
  return invitation;
}

/** Notes that an invitation was accepted by a new member, over whom its sender has power. */
export async function noteAccepted(tx: Tx, invitationId: number, memberId: number): Promise<void> {
  await tx
    .update(invitations)
    .set({ acceptedAt: sql`now()` })
    .where(eq(invitations.id, invitationId));
  await tx.execute(
    sql`INSERT INTO account_powers (user_id, by_id) SELECT ${memberId}, invited_by FROM invitations WHERE id = ${invitationId}`,
  );
}

const teamRow = z.object({ id: z.number(), name: z.string(), members: json<{ id: number; name: string }[]>() });

export async function loadTeams(tx: Tx): Promise<Team[]> {
  return rowsOf(
    tx,
    teamRow,
    sql`
    SELECT t.id, t.name, coalesce(json_agg(json_build_object('id', u.id, 'name', u.name) ORDER BY u.name) FILTER (WHERE u.id IS NOT NULL), '[]') AS members
    FROM teams t LEFT JOIN team_members m ON m.team_id = t.id LEFT JOIN users u ON u.id = m.user_id GROUP BY t.id ORDER BY lower(t.name)`,
  );
}

export async function teamOf(tx: Tx, id: number): Promise<Team | Refusal> {
  const team = (await loadTeams(tx)).find((item) => item.id === id);
  if (!team) return notFound('team');
  return team;
}

/** @returns its id, null where there is a team of this name */
export async function insertTeam(tx: Tx, name: string): Promise<number | null> {
  const [row] = await rowsOf(tx, idRow, sql`INSERT INTO teams (name) VALUES (${name}) ON CONFLICT (lower(name)) DO NOTHING RETURNING id`);
  return row?.id ?? null;
}

export async function deleteTeam(tx: Tx, id: number): Promise<void> {
  await tx.delete(teams).where(eq(teams.id, id));
}

/** Makes these the members of a team, instead of those before. */
export async function putTeamMembers(tx: Tx, teamId: number, members: readonly number[]): Promise<void> {
  await tx.delete(teamMembersTable).where(eq(teamMembersTable.teamId, teamId));
  await tx.execute(
    sql`INSERT INTO team_members (team_id, user_id) SELECT ${teamId}::bigint, u.id FROM users u WHERE u.id = ANY(${sql.param([...members])}::bigint[])`,
  );
}
