import { users, userSecrets } from '../../base/db/schema';
import { z } from 'zod';
import { moment, rowsOf } from '../../base/db/rows';
import { tokenScope } from '@fulvet/contract';
import { Refusal, isRefusal } from '../../base/refusal';
import { sql, eq } from 'drizzle-orm';
import type { Request } from 'express';
import { writeDown } from '../../base/audit';
import type { Handlers } from '../../base/handler';
import type { Services } from '../../base/services';
import { workspaceOf } from '../../workspace/workspaceSettings';
import { demandGoodPassword, hashPassword, isPassword } from './passwords';
import { countAttempt } from './attempts';
import { newKey, newRecoveryCodes, storeKey, takeCode } from './secondFactor';
import { endSessions, sessionsOf } from './sessions';
import { createToken } from './tokens';

const userRow = z.object({ password_hash: z.string().nullable() });

/** What is done to an account is asked for with its password, so that it does not an open page be enough. */
async function demandPassword(
  { database, attemptLimits }: Services,
  req: Request,
  userId: number,
  password: string,
): Promise<Refusal | null> {
  const wasRight = await countAttempt(database, attemptLimits, { kind: 'password', ip: req.ip, accountId: userId });
  if (isRefusal(wasRight)) return wasRight;
  const rows = await rowsOf(database.app, userRow, sql`SELECT password_hash FROM users WHERE id = ${userId}`);
  if (await isPassword(rows[0]?.password_hash ?? null, password)) {
    await wasRight();
    return null;
  }
  await writeDown(database.worker, null, {
    kind: 'failed sign-in',
    about: 'a wrong password was given for a change of the account',
    subjectId: userId,
  });
  return new Refusal('forbidden', 'wrong-password', 'This is not your password. Nothing was changed.', {
    password: 'is wrong',
    current: 'is wrong',
  });
}

const accessTokenRow = z.object({
  id: z.number(),
  name: z.string(),
  created_at: moment,
  last_used_at: moment.nullable(),
  scopes: z.array(tokenScope),
  expires_at: moment.nullable(),
});

const nameRow = z.object({ name: z.string() });

const factorStateRow = z.object({ on: z.boolean(), codes: z.number() });

const factorRow = z.object({ on: z.boolean() });

export const accountRoutes: Pick<
  Handlers,
  | 'listTokens'
  | 'createToken'
  | 'revokeToken'
  | 'listSessions'
  | 'endSession'
  | 'changeOwnPassword'
  | 'getSecondFactor'
  | 'beginSecondFactor'
  | 'confirmSecondFactor'
  | 'endSecondFactor'
> = {
  listTokens: async ({ user, services }) => {
    const rows = await rowsOf(
      services.database.app,
      accessTokenRow,
      sql`SELECT id, name, created_at, last_used_at, scopes, expires_at FROM access_tokens WHERE user_id = ${user.id} AND revoked_at IS NULL ORDER BY id DESC`,
    );
    return {
      tokens: rows.map((row) => ({
        id: row.id,
        name: row.name,
        createdAt: row.created_at,
        lastUsedAt: row.last_used_at,
        scopes: row.scopes,
        expiresAt: row.expires_at,
      })),
    };
  },

  createToken: async ({ user, body, services, req }) => {
    // A token that could make others would outlive its own end, and have what it lacks.
    if ((req.session as typeof req.session | undefined)?.userId !== user.id)
      return new Refusal('forbidden', 'not-by-token', 'An access token cannot create others. Sign in, and create it under Your account.');
    if (body.scopes.includes('admin') && user.role !== 'admin')
      return new Refusal('forbidden', 'token-scope', 'A token never may more than you may: choose it without administration.', {
        scopes: 'has more than you may',
      });
    const refused = await demandPassword(services, req, user.id, body.password);
    if (isRefusal(refused)) return refused;
    return services.database.as(user.id, async (tx) => {
      const made = await createToken(tx, user.id, body.name, body);
      const until = made.expiresAt ? `, until ${made.expiresAt.toISOString().slice(0, 10)}` : '';
      await writeDown(tx, user, {
        kind: 'token',
        about: `made the access token ${body.name} for ${body.scopes.join(', ')}${until}`,
        subjectId: user.id,
      });
      return {
        token: made.token,
        entry: {
          id: made.id,
          name: body.name,
          createdAt: made.createdAt.toISOString(),
          lastUsedAt: null,
          scopes: body.scopes,
          expiresAt: made.expiresAt?.toISOString() ?? null,
        },
      };
    });
  },

  revokeToken: ({ user, params, services }) =>
    services.database.as(user.id, async (tx) => {
      const rows = await rowsOf(
        tx,
        nameRow,
        sql`UPDATE access_tokens SET revoked_at = now() WHERE id = ${params.id} AND user_id = ${user.id} AND revoked_at IS NULL RETURNING name`,
      );
      if (!rows[0]) return new Refusal('unknown', 'not-found', 'There is no such token of yours, or it is revoked already.');
      await writeDown(tx, user, { kind: 'token', about: `revoked the access token ${rows[0].name}`, subjectId: user.id });
      return {};
    }),

  listSessions: async ({ user, services, req }) => ({
    sessions: await sessionsOf(services.database.app, user.id, req.sessionID as string | undefined),
  }),

  endSession: async ({ user, params, services, req }) => {
    const which = params.session === 'others' ? null : params.session;
    const ended = await endSessions(services.database.app, user.id, which, req.sessionID as string | undefined);
    if (ended === 0 && which !== null) return new Refusal('unknown', 'not-found', 'There is no such session of yours, or it has ended.');
    return { ended };
  },

  changeOwnPassword: async ({ user, body, services, req }) => {
    const refused = await demandPassword(services, req, user.id, body.current);
    if (isRefusal(refused)) return refused;
    const weak = demandGoodPassword(body.password, user);
    if (isRefusal(weak)) return weak;
    const passwordHash = await hashPassword(body.password);
    await services.database.as(user.id, async (tx) => {
      await tx.update(users).set({ passwordHash }).where(eq(users.id, user.id));
      await endSessions(tx, user.id, null, req.sessionID as string | undefined);
      await writeDown(tx, user, { kind: 'account', about: 'changed their own password', subjectId: user.id });
    });
    return {};
  },

  getSecondFactor: async ({ user, services }) => {
    const rows = await rowsOf(
      services.database.worker,
      factorStateRow,
      sql`SELECT u.second_factor AS on, coalesce(cardinality(s.recovery_hashes), 0) AS codes FROM users u LEFT JOIN user_secrets s ON s.user_id = u.id WHERE u.id = ${user.id}`,
    );
    return { on: rows[0]?.on ?? false, recoveryCodes: rows[0]?.codes ?? 0 };
  },

  beginSecondFactor: async ({ user, body, services, req }) => {
    const refused = await demandPassword(services, req, user.id, body.password);
    if (isRefusal(refused)) return refused;
    const rows = await rowsOf(services.database.app, factorRow, sql`SELECT second_factor AS on FROM users WHERE id = ${user.id}`);
    if (rows[0]?.on) return new Refusal('conflict', 'on-already', 'You have a second factor already. Switch it off to begin with another.');
    const { key, uri } = newKey(user.email);
    await storeKey(services.database.worker, services.keyRing, user.id, key);
    return { key, uri };
  },

  confirmSecondFactor: async ({ user, body, services, req }) => {
    const wasRight = await countAttempt(services.database, services.attemptLimits, { kind: 'code', ip: req.ip, accountId: user.id });
    if (isRefusal(wasRight)) return wasRight;
    const recoveryCodes = await services.database.work(async (tx) => {
      const rows = await rowsOf(tx, factorRow, sql`SELECT second_factor AS on FROM users WHERE id = ${user.id} FOR UPDATE`);
      if (rows[0]?.on) return new Refusal('conflict', 'on-already', 'Your second factor is on already. Nothing was changed.');
      const { rowCount } = await tx.execute(sql`SELECT FROM user_secrets WHERE user_id = ${user.id}`);
      if (rowCount === 0) return new Refusal('conflict', 'not-begun', 'Begin with a key first.');
      if (!(await takeCode(tx, services.keyRing, user.id, body.code)))
        return new Refusal(
          'unfit',
          'wrong-code',
          'The code is not right. Check the clock of the device, and give the code that it shows now.',
          {
            code: 'is not right',
          },
        );
      await tx.update(users).set({ secondFactor: true }).where(eq(users.id, user.id));
      await writeDown(tx, user, { kind: 'account', about: 'set up a second factor', subjectId: user.id });
      return newRecoveryCodes(tx, user.id);
    });
    if (isRefusal(recoveryCodes)) return recoveryCodes;
    await wasRight();
    return { recoveryCodes };
  },

  endSecondFactor: async ({ user, body, services, req }) => {
    const refused = await demandPassword(services, req, user.id, body.password);
    if (isRefusal(refused)) return refused;
    const workspace = await services.database.as(user.id, workspaceOf);
    if (isRefusal(workspace)) return workspace;
    const { secondFactorNeeded } = workspace;
    if (secondFactorNeeded) return new Refusal('conflict', 'needed', 'The workspace needs a second factor of every member.');
    await services.database.work(async (tx) => {
      await tx.delete(userSecrets).where(eq(userSecrets.userId, user.id));
      await tx.update(users).set({ secondFactor: false }).where(eq(users.id, user.id));
      await writeDown(tx, user, { kind: 'account', about: 'switched their second factor off', subjectId: user.id });
    });
    return {};
  },
};
