import { Refusal, isRefusal } from '../../base/refusal';
import type { Request } from 'express';
import { writeDown } from '../../base/audit';
import type { Handlers } from '../../base/handler';
import type { Services } from '../../base/services';
import { beginAtProvider, takeUpFromProvider } from './identityProvider';
import { countAttempt } from './attempts';
import { isPassword } from './passwords';
import { activeMember, memberAtProvider, memberSigningIn, noteVisit } from './queries';
import { takeCode } from './secondFactor';
import { pendingOf, sessionOf } from './session';
import { MOST_CODES, renewSession, signInto } from './sessions';
import { setUp } from './setUp';

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

async function signInByProvider(services: Services, req: Request): Promise<Refusal | null> {
  const { database } = services;
  const begun = req.session.provider;
  if (!begun) return new Refusal('signedOut', 'provider-refused', 'This sign-in was not begun here, or long ago. Begin again.');
  const back = new URL(returnUrl(req));
  back.search = new URL(req.originalUrl, back).search;
  const result = await takeUpFromProvider(services, back, begun);
  if (isRefusal(result)) return result;
  const { subject, email } = result;
  const member = await memberAtProvider(database.app, subject, email);
  if (!member)
    return new Refusal(
      'forbidden',
      'provider-refused',
      `No one on the team has the address ${email}. Ask an administrator for an invitation.`,
    );
  await signInto(req, database, member, 'the identity provider', true);
  await saved(req);
  return null;
}

export const sessionRoutes: Pick<
  Handlers,
  'getSession' | 'signIn' | 'giveCode' | 'goToProvider' | 'backFromProvider' | 'signOut' | 'setUp'
> = {
  getSession: async ({ user, services, req }) => sessionOf(services, user, req),

  signIn: async ({ body, services, req }) => {
    const { database } = services;
    const found = await memberSigningIn(database.app, body.email.trim());
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
    const user = await activeMember(database.app, pending.userId);
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
    await noteVisit(services.database.app, user.id);
    await new Promise<void>((resolve) => {
      if ((req.session as typeof req.session | undefined) === undefined) resolve();
      else req.session.destroy(() => resolve());
    });
    return {};
  },

  setUp: async ({ body, services, req }) => {
    const done = await setUp(services.database, body);
    if (isRefusal(done)) return done;
    await signInto(req, services.database, done.user, 'setting up the installation');
    return done;
  },
};
