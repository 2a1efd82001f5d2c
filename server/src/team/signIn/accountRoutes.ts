import { Refusal, isRefusal } from '../../base/refusal';
import type { Request } from 'express';
import type { User } from '@fulvet/contract';
import type { Handlers } from '../../base/handler';
import type { Asker } from './ownAccount';
import { beginSecondFactor, changeOwnPassword, confirmSecondFactor, createOwnToken, endSecondFactor, revokeOwnToken } from './ownAccount';
import { secondFactorOf, tokensOf } from './queries';
import { endSessions, sessionsOf } from './sessions';

const askerOf = (user: User, req: Request): Asker => ({ user, ip: req.ip });
const sessionIdOf = (req: Request): string | undefined => req.sessionID as string | undefined;

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
  listTokens: async ({ user, services }) => ({ tokens: await tokensOf(services.database.app, user.id) }),

  createToken: ({ user, body, services, req }) => {
    // A token that could make others would outlive its own end, and have what it lacks.
    if ((req.session as typeof req.session | undefined)?.userId !== user.id)
      return Promise.resolve(
        new Refusal('forbidden', 'not-by-token', 'An access token cannot create others. Sign in, and create it under Your account.'),
      );
    return createOwnToken(services, askerOf(user, req), body);
  },

  revokeToken: ({ user, params, services }) => revokeOwnToken(services.database, user, params.id),

  listSessions: async ({ user, services, req }) => ({
    sessions: await sessionsOf(services.database.app, user.id, sessionIdOf(req)),
  }),

  endSession: async ({ user, params, services, req }) => {
    const which = params.session === 'others' ? null : params.session;
    const ended = await endSessions(services.database.app, user.id, which, sessionIdOf(req));
    if (ended === 0 && which !== null) return new Refusal('unknown', 'not-found', 'There is no such session of yours, or it has ended.');
    return { ended };
  },

  changeOwnPassword: ({ user, body, services, req }) => changeOwnPassword(services, askerOf(user, req), body, sessionIdOf(req)),

  getSecondFactor: ({ user, services }) => secondFactorOf(services.database.worker, user.id),

  beginSecondFactor: ({ user, body, services, req }) => beginSecondFactor(services, askerOf(user, req), body.password),

  confirmSecondFactor: async ({ user, body, services, req }) => {
    const recoveryCodes = await confirmSecondFactor(services, askerOf(user, req), body.code);
    return isRefusal(recoveryCodes) ? recoveryCodes : { recoveryCodes };
  },

  endSecondFactor: ({ user, body, services, req }) => endSecondFactor(services, askerOf(user, req), body.password),
};
