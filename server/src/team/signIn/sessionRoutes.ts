import { users, workspace as workspaceTable } from '../../base/db/schema';
import { z } from 'zod';
import { idRow, rowsOf } from '../../base/db/rows';
import { ROLES } from '@fulvet/contract';
import { Refusal, isRefusal } from '../../base/refusal';
import { cautiousRulebook, rulebookSchema } from '@fulvet/core';
import { sql, eq } from 'drizzle-orm';
import type { Request } from 'express';
import { writeDown } from '../../base/audit';
import { refusing } from '../../base/db/transactions';
import type { Handlers } from '../../base/handler';
import type { Services } from '../../base/services';
import { putRulebook } from '../../rulebook/liveRulebook';
import { beginAtProvider, takeUpFromProvider } from './identityProvider';
import { countAttempt } from './attempts';
import { demandGoodPassword, hashPassword, isPassword } from './passwords';
import { takeCode } from './secondFactor';
import { pendingOf, sessionOf } from './session';
import { MOST_CODES, renewSession, signInto } from './sessions';
import { createToken } from './tokens';

const PROVIDER_RETURN = '/api/v1/session/provider/return';

const returnUrl = (req: Request): string => `${req.protocol}://${req.get('host') ?? ''}${PROVIDER_RETURN}`;

/** Puts the session down before the browser is sent elsewhere. */
function saved(req: Request): Promise<void> {
  return new Promise((resolve, reject) => {
    req.session.save((error?: Error) => {
      if (error) reject(error);
      else resolve();
    });
  });
}

const userRow = z.object({
  id: z.number(),
  email: z.string(),
  name: z.string(),
  role: z.enum(ROLES),
  provider_subject: z.string().nullable(),
});

async function signInByProvider(services: Services, req: Request): Promise<Refusal | null> {
  const { database } = services;
  const begun = req.session.provider;
  if (!begun) return new Refusal('signedOut', 'provider-refused', 'This sign-in was not begun here, or long ago. Begin again.');
  const back = new URL(returnUrl(req));
  back.search = new URL(req.originalUrl, back).search;
  const result = await takeUpFromProvider(services, back, begun);
  if (isRefusal(result)) return result;
  const { subject, email } = result;
  const rows = await rowsOf(
    database.app,
    userRow,
    sql`SELECT id, email, name, role, provider_subject FROM users WHERE active AND (provider_subject = ${subject} OR (provider_subject IS NULL AND lower(email) = lower(${email}))) ORDER BY provider_subject IS NOT NULL DESC LIMIT 1`,
  );
  const [found] = rows;
  if (!found)
    return new Refusal(
      'forbidden',
      'provider-refused',
      `No one on the team has the address ${email}. Ask an administrator for an invitation.`,
    );
  if (found.provider_subject === null) await database.app.update(users).set({ providerSubject: subject }).where(eq(users.id, found.id));
  await signInto(req, database, { id: found.id, email: found.email, name: found.name, role: found.role }, 'the identity provider', true);
  await saved(req);
  return null;
}

const signInRow = z.object({
  id: z.number(),
  email: z.string(),
  name: z.string(),
  role: z.enum(ROLES),
  password_hash: z.string().nullable(),
  second_factor: z.boolean(),
});

const memberRow = z.object({ id: z.number(), email: z.string(), name: z.string(), role: z.enum(ROLES) });

export const sessionRoutes: Pick<
  Handlers,
  'getSession' | 'signIn' | 'giveCode' | 'goToProvider' | 'backFromProvider' | 'signOut' | 'setUp'
> = {
  getSession: async ({ user, services, req }) => sessionOf(services, user, req),

  signIn: async ({ body, services, req }) => {
    const { database } = services;
    const rows = await rowsOf(
      database.app,
      signInRow,
      sql`SELECT id, email, name, role, password_hash, second_factor FROM users WHERE lower(email) = lower(${body.email.trim()}) AND active`,
    );
    const found = rows[0];
    const wasRight = await countAttempt(database, services.attemptLimits, {
      kind: 'password',
      ip: req.ip,
      address: body.email,
      accountId: found?.id,
    });
    if (isRefusal(wasRight)) return wasRight;
    if (!(await isPassword(found?.password_hash ?? null, body.password)) || !found) {
      // Whose address was tried stands in the log of those whom it concerns; an unknown one is not written down: it may be a password.
      if (found)
        await writeDown(database.worker, null, { kind: 'failed sign-in', about: 'a wrong password was given', subjectId: found.id });
      return new Refusal('signedOut', 'wrong-sign-in', 'Address or password is wrong.');
    }
    await wasRight();
    const user = { id: found.id, email: found.email, name: found.name, role: found.role };
    if (found.second_factor) {
      await renewSession(req);
      req.session.pending = { userId: user.id, at: Date.now(), tries: 0 };
      return sessionOf(services, null, req);
    }
    await signInto(req, database, user, 'password');
    return sessionOf(services, user, req);
  },

  giveCode: async ({ body, services, req }) => {
    const { database, keyRing } = services;
    const pending = pendingOf(req);
    const again = new Refusal(
      'signedOut',
      'wrong-code',
      'Sign in with address and password first; the code is asked for after that, within five minutes.',
    );
    if (!pending) return again;
    const rows = await rowsOf(
      database.app,
      memberRow,
      sql`SELECT id, email, name, role FROM users WHERE id = ${pending.userId} AND active`,
    );
    const [user] = rows;
    if (!user) return again;
    const wasRight = await countAttempt(database, services.attemptLimits, { kind: 'code', ip: req.ip, accountId: user.id });
    if (isRefusal(wasRight)) return wasRight;
    if (!(await database.work((tx) => takeCode(tx, keyRing, user.id, body.code)))) {
      await writeDown(database.worker, null, {
        kind: 'failed sign-in',
        about: 'a wrong code was given after the right password',
        subjectId: user.id,
      });
      const tries = pending.tries + 1;
      if (tries >= MOST_CODES) {
        await renewSession(req);
        return new Refusal('busy', 'too-many-attempts', 'Too many wrong codes. Begin again with address and password.');
      }
      req.session.pending = { ...pending, tries };
      return new Refusal(
        'signedOut',
        'wrong-code',
        'The code is wrong, or was used already. Wait for the next one, or take a recovery code.',
      );
    }
    await wasRight();
    await signInto(req, database, user, 'password and code');
    return sessionOf(services, user, req);
  },

  goToProvider: async ({ services, req, res }) => {
    const result = await beginAtProvider(services, returnUrl(req));
    if (isRefusal(result)) return result;
    const { url, begun } = result;
    await renewSession(req);
    req.session.provider = begun;
    await saved(req);
    res.redirect(303, url);
    return undefined;
  },

  backFromProvider: async ({ services, req, res }) => {
    const refused = await signInByProvider(services, req);
    // The person comes from another page: what went wrong is told on ours.
    res.redirect(303, isRefusal(refused) ? `/?sign-in=${encodeURIComponent(refused.message)}` : '/');
    return undefined;
  },

  signOut: async ({ user, services, req }) => {
    await services.database.app
      .update(users)
      .set({ lastVisitAt: sql`now()` })
      .where(eq(users.id, user.id));
    await new Promise<void>((resolve) => {
      if ((req.session as typeof req.session | undefined) === undefined) resolve();
      else req.session.destroy(() => resolve());
    });
    return {};
  },

  setUp: async ({ body, services, req }) => {
    const unread = body.ownDomains.filter((domain) => !rulebookSchema.safeParse(cautiousRulebook([domain])).success);
    if (unread.length > 0) {
      const said = `${unread.join(', ')} ${unread.length === 1 ? 'is no domain: it looks' : 'are no domains: they look'} like harbour.example`;
      return new Refusal('unfit', 'bad-input', `${said}. Nothing was set up.`, { ownDomains: said });
    }
    const refused = demandGoodPassword(body.admin.password, body.admin);
    if (isRefusal(refused)) return refused;
    const passwordHash = await hashPassword(body.admin.password);
    const result = await refusing(services.database.app, async (tx) => {
      await tx.execute(sql`SELECT pg_advisory_xact_lock(460205)`);
      const there = await tx.execute(sql`SELECT FROM users`);
      if ((there.rowCount ?? 0) > 0)
        return new Refusal('conflict', 'set-up-already', 'The installation is set up already. Sign in instead.');
      await tx.insert(workspaceTable).values({ name: body.workspace });
      const rows = await rowsOf(
        tx,
        idRow,
        sql`INSERT INTO users (email, name, role, password_hash) VALUES (${body.admin.email}, ${body.admin.name}, 'admin', ${passwordHash}) RETURNING id`,
      );
      const id = rows[0]?.id ?? 0;
      await tx.execute(sql`SELECT set_config('fulvet.user_id', ${String(id)}, true)`);
      await putRulebook(tx, rulebookSchema.parse(cautiousRulebook(body.ownDomains)), 'First set-up', id);
      return {
        user: { id, email: body.admin.email, name: body.admin.name, role: 'admin' as const },
        token: (await createToken(tx, id, 'First set-up')).token,
      };
    });
    if (isRefusal(result)) return result;
    const { user, token } = result;
    await signInto(req, services.database, user, 'setting up the installation');
    return { user, token };
  },
};
