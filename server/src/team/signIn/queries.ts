import { accessTokens, users, workspace } from '../../base/db/schema';
import { z } from 'zod';
import { idRow, moment, rowsOf } from '../../base/db/rows';
import { ROLES, tokenScope } from '@fulvet/contract';
import type { AccessToken, User } from '@fulvet/contract';
import { and, eq, isNull, sql } from 'drizzle-orm';
import type { Db, Tx } from '../../base/db/database';

const SET_UP_LOCK = 460205;

const MEMBER = sql`id, email, name, role`;

const memberRow = z.object({ id: z.number(), email: z.string(), name: z.string(), role: z.enum(ROLES) });

const signingInRow = memberRow.extend({ password_hash: z.string().nullable(), second_factor: z.boolean() });

/** The active member of an address, with what signing in asks for. */
export async function memberSigningIn(db: Db, email: string): Promise<z.output<typeof signingInRow> | undefined> {
  const [member] = await rowsOf(
    db,
    signingInRow,
    sql`SELECT ${MEMBER}, password_hash, second_factor FROM users WHERE lower(email) = lower(${email}) AND active`,
  );
  return member;
}

export async function activeMember(db: Db, id: number): Promise<User | undefined> {
  const [member] = await rowsOf(db, memberRow, sql`SELECT ${MEMBER} FROM users WHERE id = ${id} AND active`);
  return member;
}

const providersMemberRow = memberRow.extend({ provider_subject: z.string().nullable() });

/** The active member whom the identity provider vouches for: by subject, else by address where they never signed in there. */
export async function memberAtProvider(db: Db, subject: string, email: string): Promise<User | undefined> {
  const [found] = await rowsOf(
    db,
    providersMemberRow,
    sql`SELECT ${MEMBER}, provider_subject FROM users WHERE active AND (provider_subject = ${subject} OR (provider_subject IS NULL AND lower(email) = lower(${email}))) ORDER BY provider_subject IS NOT NULL DESC LIMIT 1`,
  );
  if (!found) return undefined;
  const { provider_subject: known, ...member } = found;
  if (known === null) await db.update(users).set({ providerSubject: subject }).where(eq(users.id, member.id));
  return member;
}

const passwordRow = z.object({ password_hash: z.string().nullable() });

export async function passwordHashOf(db: Db, userId: number): Promise<string | null> {
  const [member] = await rowsOf(db, passwordRow, sql`SELECT password_hash FROM users WHERE id = ${userId}`);
  return member?.password_hash ?? null;
}

export async function noteVisit(db: Db, userId: number): Promise<void> {
  await db
    .update(users)
    .set({ lastVisitAt: sql`now()` })
    .where(eq(users.id, userId));
}

const accessTokenRow = z.object({
  id: z.number(),
  name: z.string(),
  created_at: moment,
  last_used_at: moment.nullable(),
  scopes: z.array(tokenScope),
  expires_at: moment.nullable(),
});

/** The access tokens of a member that are not revoked, the newest first. */
export async function tokensOf(db: Db, userId: number): Promise<AccessToken[]> {
  const rows = await rowsOf(
    db,
    accessTokenRow,
    sql`SELECT id, name, created_at, last_used_at, scopes, expires_at FROM access_tokens WHERE user_id = ${userId} AND revoked_at IS NULL ORDER BY id DESC`,
  );
  return rows.map(({ id, name, created_at: createdAt, last_used_at: lastUsedAt, scopes, expires_at: expiresAt }) => ({
    id,
    name,
    createdAt,
    lastUsedAt,
    scopes,
    expiresAt,
  }));
}

/** @returns the token's name, null where the member has no such token */
export async function revokeToken(tx: Tx, userId: number, id: number): Promise<string | null> {
  const [revoked] = await tx
    .update(accessTokens)
    .set({ revokedAt: sql`now()` })
    .where(and(eq(accessTokens.id, id), eq(accessTokens.userId, userId), isNull(accessTokens.revokedAt)))
    .returning({ name: accessTokens.name });
  return revoked?.name ?? null;
}

const factorStateRow = z.object({ on: z.boolean(), codes: z.number() });

/** Whether a member has a second factor, and how many recovery codes are left. */
export async function secondFactorOf(db: Db, userId: number): Promise<{ on: boolean; recoveryCodes: number }> {
  const [state] = await rowsOf(
    db,
    factorStateRow,
    sql`SELECT u.second_factor AS on, coalesce(cardinality(s.recovery_hashes), 0) AS codes FROM users u LEFT JOIN user_secrets s ON s.user_id = u.id WHERE u.id = ${userId}`,
  );
  return { on: state?.on ?? false, recoveryCodes: state?.codes ?? 0 };
}

const factorRow = z.object({ on: z.boolean() });

/** Whether a second factor is on; no one else changes it until the transaction ends. */
export async function lockedFactor(tx: Tx, userId: number): Promise<boolean> {
  const [member] = await rowsOf(tx, factorRow, sql`SELECT second_factor AS on FROM users WHERE id = ${userId} FOR UPDATE`);
  return member?.on ?? false;
}

export async function hasKey(tx: Tx, userId: number): Promise<boolean> {
  const { rowCount } = await tx.execute(sql`SELECT FROM user_secrets WHERE user_id = ${userId}`);
  return (rowCount ?? 0) > 0;
}

export async function switchFactorOn(tx: Tx, userId: number): Promise<void> {
  await tx.update(users).set({ secondFactor: true }).where(eq(users.id, userId));
}

/** Whether the installation has no member yet; others who set it up wait until the transaction ends. */
export async function isNew(tx: Tx): Promise<boolean> {
  await tx.execute(sql`SELECT pg_advisory_xact_lock(${SET_UP_LOCK})`);
  const { rowCount } = await tx.execute(sql`SELECT FROM users LIMIT 1`);
  return rowCount === 0;
}

/** The first administrator, in whose name the transaction goes on. */
export async function insertFirstAdmin(
  tx: Tx,
  workspaceName: string,
  { email, name }: { email: string; name: string },
  passwordHash: string,
): Promise<User> {
  await tx.insert(workspace).values({ name: workspaceName });
  const [row] = await rowsOf(
    tx,
    idRow,
    sql`INSERT INTO users (email, name, role, password_hash) VALUES (${email}, ${name}, 'admin', ${passwordHash}) RETURNING id`,
  );
  const id = row?.id ?? 0;
  await tx.execute(sql`SELECT set_config('fulvet.user_id', ${String(id)}, true)`);
  return { id, email, name, role: 'admin' };
}
