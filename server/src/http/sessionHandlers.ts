import type { User } from '@fulvet/contract';
import { cautiousRulebook, rulebookSchema } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { randomBytes } from 'node:crypto';
import type { Request } from 'express';
import { openApiDocument } from '@fulvet/contract';
import { hashPassword, isPassword } from '../auth/passwords';
import { createToken } from '../auth/tokens';
import type { Db } from '../db/database';
import type { Services } from '../services';
import { putRulebook } from '../workspace/rulebookStore';
import { RequestError } from './errors';
import type { Handlers } from './handler';

type SessionHandlers = Pick<
  Handlers,
  | 'getSession'
  | 'signIn'
  | 'signOut'
  | 'setUp'
  | 'openApi'
  | 'listTokens'
  | 'createToken'
  | 'revokeToken'
  | 'listTeam'
  | 'addMember'
  | 'setPassword'
>;

export const sessionHandlers: SessionHandlers = {
  getSession: async ({ user, services, req }) => sessionOf(services, user, req),

  signIn: async ({ body, services, req }) => {
    const { rows } = await services.database.app.execute<{
      id: number;
      email: string;
      name: string;
      role: User['role'];
      password_hash: string | null;
    }>(sql`SELECT id, email, name, role, password_hash FROM users WHERE lower(email) = lower(${body.email.trim()}) AND active`);
    const found = rows[0];
    if (!(await isPassword(found?.password_hash ?? null, body.password)) || !found)
      throw new RequestError(401, 'wrong-sign-in', 'Address or password is wrong.');
    await new Promise<void>((resolve, reject) => {
      req.session.regenerate((error?: Error) => {
        if (error) reject(error);
        else resolve();
      });
    });
    req.session.userId = found.id;
    req.session.csrf = randomBytes(18).toString('base64url');
    return sessionOf(services, { id: found.id, email: found.email, name: found.name, role: found.role }, req);
  },

  signOut: async ({ user, services, req }) => {
    await services.database.app.execute(sql`UPDATE users SET last_visit_at = now() WHERE id = ${user.id}`);
    await new Promise<void>((resolve) => {
      if ((req.session as typeof req.session | undefined) === undefined) resolve();
      else req.session.destroy(() => resolve());
    });
    return {};
  },

  setUp: async ({ body, services, req }) => {
    const rulebook = rulebookSchema.safeParse(cautiousRulebook(body.ownDomains));
    if (!rulebook.success)
      throw new RequestError(422, 'bad-input', `An own domain cannot be read: ${rulebook.error.issues[0]?.message ?? ''}.`, {
        ownDomains: 'is not a domain such as harbour.example',
      });
    const passwordHash = await hashPassword(body.admin.password);
    const { user, token } = await services.database.app.transaction(async (tx) => {
      await tx.execute(sql`SELECT pg_advisory_xact_lock(460205)`);
      const there = await tx.execute(sql`SELECT FROM users`);
      if ((there.rowCount ?? 0) > 0) throw new RequestError(409, 'set-up-already', 'The installation is set up already. Sign in instead.');
      await tx.execute(sql`INSERT INTO workspace (name) VALUES (${body.workspace})`);
      const { rows } = await tx.execute<{ id: number }>(
        sql`INSERT INTO users (email, name, role, password_hash) VALUES (${body.admin.email}, ${body.admin.name}, 'admin', ${passwordHash}) RETURNING id`,
      );
      const id = rows[0]?.id ?? 0;
      await tx.execute(sql`SELECT set_config('fulvet.user_id', ${String(id)}, true)`);
      await putRulebook(tx, rulebook.data, 'First set-up', id);
      return {
        user: { id, email: body.admin.email, name: body.admin.name, role: 'admin' as const },
        token: (await createToken(tx, id, 'First set-up')).token,
      };
    });
    req.session.userId = user.id;
    req.session.csrf = randomBytes(18).toString('base64url');
    return { user, token };
  },

  openApi: async ({ services }) => openApiDocument(services.version),

  listTokens: async ({ user, services }) => {
    const { rows } = await services.database.app.execute<{ id: number; name: string; created_at: string; last_used_at: string | null }>(
      sql`SELECT id, name, created_at, last_used_at FROM access_tokens WHERE user_id = ${user.id} AND revoked_at IS NULL ORDER BY id DESC`,
    );
    return {
      tokens: rows.map((row) => ({
        id: row.id,
        name: row.name,
        createdAt: iso(row.created_at),
        lastUsedAt: row.last_used_at === null ? null : iso(row.last_used_at),
      })),
    };
  },

  createToken: async ({ user, body, services }) => {
    const made = await createToken(services.database.app, user.id, body.name);
    return { token: made.token, entry: { id: made.id, name: body.name, createdAt: made.createdAt.toISOString(), lastUsedAt: null } };
  },

  revokeToken: async ({ user, params, services }) => {
    const { rowCount } = await services.database.app.execute(
      sql`UPDATE access_tokens SET revoked_at = now() WHERE id = ${params.id} AND user_id = ${user.id} AND revoked_at IS NULL`,
    );
    if (rowCount === 0) throw new RequestError(404, 'not-found', 'There is no such token of yours, or it is revoked already.');
    return {};
  },

  listTeam: async ({ user, services }) => ({ members: await teamMembers(services.database.app, user.role === 'admin') }),

  addMember: async ({ body, services }) => {
    const { database } = services;
    const passwordHash = body.password === undefined ? null : await hashPassword(body.password);
    const { rows } = await database.app.execute<{ id: number }>(
      sql`INSERT INTO users (email, name, role, password_hash) VALUES (${body.email}, ${body.name}, ${body.role}, ${passwordHash}) ON CONFLICT (lower(email)) DO NOTHING RETURNING id`,
    );
    const id = rows[0]?.id;
    if (id === undefined)
      throw new RequestError(409, 'exists', `${body.email} is on the team already.`, { email: 'is on the team already' });
    return { id, email: body.email, name: body.name, role: body.role, mailboxes: [], hasPassword: passwordHash !== null };
  },

  setPassword: async ({ params, body, services, user }) => {
    const passwordHash = await hashPassword(body.password);
    const { rowCount } = await services.database.app.execute(sql`UPDATE users SET password_hash = ${passwordHash} WHERE id = ${params.id}`);
    if (rowCount === 0) throw new RequestError(404, 'not-found', 'There is no such member.');
    if (params.id !== user.id)
      await services.database.app.execute(sql`DELETE FROM session WHERE (sess ->> 'userId')::bigint = ${params.id}`);
    return {};
  },
};

async function sessionOf(
  services: Services,
  user: User | null,
  req: Request,
): Promise<{ user: User | null; setUp: boolean; workspace: string; csrf: string }> {
  const { rows } = await services.database.app.execute<{ name: string }>(sql`SELECT name FROM workspace`);
  return {
    user,
    setUp: rows.length > 0,
    workspace: rows[0]?.name ?? '',
    csrf: (req.session as typeof req.session | undefined)?.csrf ?? '',
  };
}

async function teamMembers(
  db: Db,
  withPasswords: boolean,
): Promise<{ id: number; email: string; name: string; role: User['role']; mailboxes: string[]; hasPassword: boolean }[]> {
  const { rows } = await db.execute<{ id: number; email: string; name: string; role: User['role']; has_password: boolean }>(
    sql`SELECT u.id, u.email, u.name, u.role, u.password_hash IS NOT NULL AS has_password FROM users u WHERE u.active ORDER BY u.name`,
  );
  return rows.map((row) => ({
    id: row.id,
    email: row.email,
    name: row.name,
    role: row.role,
    mailboxes: [],
    hasPassword: withPasswords && row.has_password,
  }));
}

export function iso(value: string | Date): string {
  return new Date(value).toISOString();
}
