import { users, accessTokens, userSecrets, invitations as invitationsTable } from '../base/db/schema';
import { z } from 'zod';
import { idRow, rowsOf } from '../base/db/rows';
import { Refusal, isRefusal, notFound } from '../base/refusal';
import type { User } from '@fulvet/contract';
import { sql, eq, isNull, and } from 'drizzle-orm';
import { randomBytes } from 'node:crypto';
import { writeDown } from '../base/audit';
import type { Handlers } from '../base/handler';
import { deactivate } from './leave';
import { countAttempt } from './signIn/attempts';
import { demandGoodPassword, hashPassword } from './signIn/passwords';
import { sessionOf } from './signIn/session';
import { endSessions, signInto } from './signIn/sessions';
import {
  INVITED_DAYS,
  hashOf,
  openInvitation,
  invitationsOf,
  insertMember,
  notePower,
  demandOtherAdmin,
  memberOf,
  teamMembers,
} from './members';

const nameRow = z.object({ name: z.string() });

const invitedRow = z.object({ email: z.string() });

export const memberRoutes: Pick<
  Handlers,
  | 'listTeam'
  | 'addMember'
  | 'changeMember'
  | 'setPassword'
  | 'deactivateMember'
  | 'activateMember'
  | 'resetSecondFactor'
  | 'listInvitations'
  | 'invite'
  | 'withdrawInvitation'
  | 'getInvitation'
  | 'acceptInvitation'
> = {
  listTeam: async ({ user, services }) => ({ members: await teamMembers(services.database.app, user.role === 'admin') }),

  addMember: async ({ user, body, services }) => {
    if (body.password !== undefined) {
      const refused = demandGoodPassword(body.password, body);
      if (isRefusal(refused)) return refused;
    }
    const passwordHash = body.password === undefined ? null : await hashPassword(body.password);
    return services.database.as(user.id, async (tx) => {
      const id = await insertMember(tx, body, passwordHash);
      if (isRefusal(id)) return id;
      await notePower(tx, user.id, id);
      await writeDown(tx, user, { kind: 'account', about: `put ${body.name} on the team as ${body.role}`, subjectId: id });
      return memberOf(tx, id);
    });
  },

  changeMember: ({ user, params, body, services }) =>
    services.database.as(user.id, async (tx) => {
      const before = await memberOf(tx, params.id);
      if (isRefusal(before)) return before;
      if (body.role !== undefined && body.role !== 'admin') {
        const refused = await demandOtherAdmin(tx, before);
        if (isRefusal(refused)) return refused;
      }
      await tx.execute(
        sql`UPDATE users SET name = coalesce(${body.name ?? null}, name), role = coalesce(${body.role ?? null}, role) WHERE id = ${params.id}`,
      );
      const after = await memberOf(tx, params.id);
      if (isRefusal(after)) return after;
      if (after.role !== before.role) await notePower(tx, user.id, after.id);
      if (after.role !== before.role)
        await writeDown(tx, user, {
          kind: 'account',
          about: `made ${after.name} ${after.role} instead of ${before.role}`,
          subjectId: after.id,
        });
      return after;
    }),

  setPassword: async ({ params, body, services, user }) => {
    if (params.id === user.id)
      return new Refusal(
        'conflict',
        'own-password',
        'This is your own password. Change it under Your account, where the present one is asked for.',
      );
    const member = await services.database.as(user.id, (tx) => memberOf(tx, params.id));
    if (isRefusal(member)) return member;
    const refused = demandGoodPassword(body.password, member);
    if (isRefusal(refused)) return refused;
    const passwordHash = await hashPassword(body.password);
    const unset = await services.database.as(user.id, async (tx) => {
      const result = await memberOf(tx, params.id);
      if (isRefusal(result)) return result;
      const { name } = result;
      await tx.update(users).set({ passwordHash }).where(eq(users.id, params.id));
      await endSessions(tx, params.id, null, undefined);
      await tx
        .update(accessTokens)
        .set({ revokedAt: sql`now()` })
        .where(and(eq(accessTokens.userId, params.id), isNull(accessTokens.revokedAt)));
      await notePower(tx, user.id, params.id);
      await writeDown(tx, user, { kind: 'account', about: `set the password of ${name}`, subjectId: params.id });
      return null;
    });
    if (isRefusal(unset)) return unset;
    return {};
  },

  deactivateMember: async ({ user, params, body, services }) => {
    const refused = await services.database.as(user.id, async (tx) => {
      const member = await memberOf(tx, params.id);
      if (isRefusal(member)) return member;
      if (!member.active) return new Refusal('conflict', 'inactive', `${member.name} is not active any more.`);
      const refused = await demandOtherAdmin(tx, member);
      if (isRefusal(refused)) return refused;
      return null;
    });
    if (isRefusal(refused)) return refused;
    return deactivate(services, user, params.id, body);
  },

  activateMember: ({ user, params, services }) =>
    services.database.as(user.id, async (tx) => {
      const refused = await memberOf(tx, params.id);
      if (isRefusal(refused)) return refused;
      await tx.update(users).set({ active: true, deactivatedAt: null }).where(eq(users.id, params.id));
      const member = await memberOf(tx, params.id);
      if (isRefusal(member)) return member;
      await notePower(tx, user.id, member.id);
      await writeDown(tx, user, { kind: 'account', about: `let ${member.name} in again`, subjectId: member.id });
      return member;
    }),

  resetSecondFactor: async ({ user, params, services }) => {
    const refused = await services.database.work(async (tx) => {
      const rows = await rowsOf(tx, nameRow, sql`UPDATE users SET second_factor = false WHERE id = ${params.id} RETURNING name`);
      if (!rows[0]) return notFound('member');
      await tx.delete(userSecrets).where(eq(userSecrets.userId, params.id));
      await notePower(tx, user.id, params.id);
      await writeDown(tx, user, { kind: 'account', about: `took the second factor off ${rows[0].name}`, subjectId: params.id });
      return null;
    });
    if (isRefusal(refused)) return refused;
    return {};
  },

  listInvitations: async ({ user, services }) => ({ invitations: await services.database.as(user.id, (tx) => invitationsOf(tx)) }),

  invite: ({ user, body, services }) =>
    services.database.as(user.id, async (tx) => {
      const there = await tx.execute(sql`SELECT FROM users WHERE lower(email) = lower(${body.email})`);
      if (there.rowCount)
        return new Refusal('conflict', 'exists', `${body.email} is on the team already.`, { email: 'is on the team already' });
      // A new link makes the ones before it void.
      await tx.execute(
        sql`UPDATE invitations SET withdrawn_at = now() WHERE lower(email) = lower(${body.email}) AND accepted_at IS NULL AND withdrawn_at IS NULL`,
      );
      const token = randomBytes(32).toString('base64url');
      const rows = await rowsOf(
        tx,
        idRow,
        sql`INSERT INTO invitations (email, name, role, token_hash, invited_by, expires_at) VALUES (${body.email}, ${body.name}, ${body.role}, ${hashOf(token)}, ${user.id}, now() + make_interval(days => ${INVITED_DAYS})) RETURNING id`,
      );
      await writeDown(tx, user, { kind: 'account', about: `invited ${body.email} as ${body.role}` });
      const invitation = (await invitationsOf(tx)).find((it) => it.id === rows[0]?.id);
      if (!invitation) throw new Error('the invitation is not there');
      return { invitation, token };
    }),

  withdrawInvitation: ({ user, params, services }) =>
    services.database.as(user.id, async (tx) => {
      const rows = await rowsOf(
        tx,
        invitedRow,
        sql`UPDATE invitations SET withdrawn_at = now() WHERE id = ${params.id} AND accepted_at IS NULL AND withdrawn_at IS NULL RETURNING email`,
      );
      if (!rows[0]) return notFound('open invitation');
      await writeDown(tx, user, { kind: 'account', about: `took back the invitation of ${rows[0].email}` });
      return {};
    }),

  getInvitation: async ({ query, services, req }) => {
    const wasRight = await countAttempt(services.database, services.attemptLimits, { kind: 'invitation', ip: req.ip });
    if (isRefusal(wasRight)) return wasRight;
    const found = await openInvitation(services.database.worker, query.token);
    if (isRefusal(found)) return found;
    await wasRight();
    const rows = await rowsOf(services.database.app, nameRow, sql`SELECT name FROM workspace`);
    return { email: found.email, name: found.name, workspace: rows[0]?.name ?? '', by: found.by };
  },

  acceptInvitation: async ({ body, services, req }) => {
    const { database } = services;
    const wasRight = await countAttempt(database, services.attemptLimits, { kind: 'invitation', ip: req.ip });
    if (isRefusal(wasRight)) return wasRight;
    const result = await openInvitation(database.worker, body.token);
    if (isRefusal(result)) return result;
    const { email } = result;
    const refused = demandGoodPassword(body.password, { email, name: body.name });
    if (isRefusal(refused)) return refused;
    const passwordHash = await hashPassword(body.password);
    const user = await database.work(async (tx): Promise<User | Refusal> => {
      const found = await openInvitation(tx, body.token);
      if (isRefusal(found)) return found;
      const id = await insertMember(tx, { email: found.email, name: body.name, role: found.role }, passwordHash);
      if (isRefusal(id)) return id;
      await tx
        .update(invitationsTable)
        .set({ acceptedAt: sql`now()` })
        .where(eq(invitationsTable.id, found.id));
      await tx.execute(sql`INSERT INTO account_powers (user_id, by_id) SELECT ${id}, invited_by FROM invitations WHERE id = ${found.id}`);
      const joined = { id, email: found.email, name: body.name, role: found.role };
      await writeDown(tx, joined, { kind: 'account', about: `joined on the invitation of ${found.by}`, subjectId: id });
      return joined;
    });
    if (isRefusal(user)) return user;
    await wasRight();
    await signInto(req, database, user, 'invitation');
    return sessionOf(services, user, req);
  },
};
