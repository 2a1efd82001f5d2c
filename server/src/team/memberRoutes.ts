import { isRefusal } from '../base/refusal';
import type { Handlers } from '../base/handler';
import { activateMember, addMember, changeMember, mayBeDeactivated, resetSecondFactor, setPassword } from './changeMembers';
import { acceptInvitation, invite, takeBackInvitation } from './invitations';
import { deactivateMember } from './deactivateMember';
import { invitationsOf, openInvitation, teamMembers, workspaceName } from './queries';
import { countAttempt } from './signIn/attempts';
import { sessionOf } from './signIn/session';
import { signInto } from './signIn/sessions';

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

  addMember: ({ user, body, services }) => addMember(services.database, user, body),

  changeMember: ({ user, params, body, services }) => changeMember(services.database, user, params.id, body),

  setPassword: ({ user, params, body, services }) => setPassword(services.database, user, params.id, body.password),

  deactivateMember: async ({ user, params, body, services }) => {
    const refused = await mayBeDeactivated(services.database, user, params.id);
    return isRefusal(refused) ? refused : deactivateMember(services, user, params.id, body);
  },

  activateMember: ({ user, params, services }) => activateMember(services.database, user, params.id),

  resetSecondFactor: ({ user, params, services }) => resetSecondFactor(services.database, user, params.id),

  listInvitations: async ({ user, services }) => ({ invitations: await services.database.as(user.id, (tx) => invitationsOf(tx)) }),

  invite: ({ user, body, services }) => invite(services.database, user, body),

  withdrawInvitation: ({ user, params, services }) => takeBackInvitation(services.database, user, params.id),

  getInvitation: async ({ query, services, req }) => {
    const wasRight = await countAttempt(services.database, services.attemptLimits, { kind: 'invitation', ip: req.ip });
    if (isRefusal(wasRight)) return wasRight;
    const found = await openInvitation(services.database.worker, query.token);
    if (isRefusal(found)) return found;
    await wasRight();
    return { email: found.email, name: found.name, workspace: (await workspaceName(services.database.app)) ?? '', by: found.by };
  },

  acceptInvitation: async ({ body, services, req }) => {
    const wasRight = await countAttempt(services.database, services.attemptLimits, { kind: 'invitation', ip: req.ip });
    if (isRefusal(wasRight)) return wasRight;
    const user = await acceptInvitation(services.database, body);
    if (isRefusal(user)) return user;
    await wasRight();
    await signInto(req, services.database, user, 'invitation');
    return sessionOf(services, user, req);
  },
};
