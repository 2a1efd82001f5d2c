import { Refusal, isRefusal, notFound } from '../base/refusal';
import type { Invitation, User } from '@fulvet/contract';
import { randomBytes } from 'node:crypto';
import { writeDown } from '../base/audit';
import type { Database } from '../base/db/database';
import { demandGoodPassword, hashPassword } from './signIn/passwords';
import {
  insertInvitation,
  insertMember,
  isOnTeam,
  noteAccepted,
  openInvitation,
  withdrawInvitation,
  withdrawInvitationsOf,
} from './queries';

type Invited = Pick<User, 'email' | 'name' | 'role'>;

/** Invites someone to the team. The token of the link is told once and not stored. */
export function invite(database: Database, admin: User, invited: Invited): Promise<{ invitation: Invitation; token: string } | Refusal> {
  return database.as(admin.id, async (tx) => {
    if (await isOnTeam(tx, invited.email))
      return new Refusal('conflict', 'exists', `${invited.email} is on the team already.`, { email: 'is on the team already' });
    await withdrawInvitationsOf(tx, invited.email);
    const token = randomBytes(32).toString('base64url');
    const invitation = await insertInvitation(tx, admin.id, invited, token);
    await writeDown(tx, admin, { kind: 'account', about: `invited ${invited.email} as ${invited.role}` });
    return { invitation, token };
  });
}

export function takeBackInvitation(database: Database, admin: User, id: number): Promise<Record<string, never> | Refusal> {
  return database.as(admin.id, async (tx) => {
    const email = await withdrawInvitation(tx, id);
    if (email === null) return notFound('open invitation');
    await writeDown(tx, admin, { kind: 'account', about: `took back the invitation of ${email}` });
    return {};
  });
}

/** Makes whoever holds the token of an open invitation a member. */
export async function acceptInvitation(
  database: Database,
  { token, name, password }: { token: string; name: string; password: string },
): Promise<User | Refusal> {
  const open = await openInvitation(database.worker, token);
  if (isRefusal(open)) return open;
  const refused = demandGoodPassword(password, { email: open.email, name });
  if (isRefusal(refused)) return refused;
  const passwordHash = await hashPassword(password);
  return database.work(async (tx): Promise<User | Refusal> => {
    const invitation = await openInvitation(tx, token);
    if (isRefusal(invitation)) return invitation;
    const { email, role } = invitation;
    const id = await insertMember(tx, { email, name, role }, passwordHash);
    if (isRefusal(id)) return id;
    await noteAccepted(tx, invitation.id, id);
    const joined = { id, email, name, role };
    await writeDown(tx, joined, { kind: 'account', about: `joined on the invitation of ${invitation.by}`, subjectId: id });
    return joined;
  });
}
