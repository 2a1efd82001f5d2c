import { Refusal, isRefusal, notFound } from '../base/refusal';
import type { TeamMember, User } from '@fulvet/contract';
import { writeDown } from '../base/audit';
import type { Database, Tx } from '../base/db/database';
import { demandGoodPassword, hashPassword } from './signIn/passwords';
import { endSessions } from './signIn/sessions';
import {
  activate,
  dropSecondFactor,
  hasOtherAdmin,
  insertMember,
  memberOf,
  notePower,
  revokeTokens,
  storePassword,
  updateMember,
} from './queries';

type NewMember = Pick<User, 'email' | 'name' | 'role'> & { password?: string | undefined };

export async function addMember(database: Database, admin: User, body: NewMember): Promise<TeamMember | Refusal> {
  const { password } = body;
  const refused = password === undefined ? null : demandGoodPassword(password, body);
  if (isRefusal(refused)) return refused;
  const passwordHash = password === undefined ? null : await hashPassword(password);
  return database.as(admin.id, async (tx) => {
    const id = await insertMember(tx, body, passwordHash);
    if (isRefusal(id)) return id;
    await notePower(tx, admin.id, id);
    await writeDown(tx, admin, { kind: 'account', about: `put ${body.name} on the team as ${body.role}`, subjectId: id });
    return memberOf(tx, id);
  });
}

/** The workspace is never left without an administrator. */
async function demandOtherAdmin(tx: Tx, member: TeamMember): Promise<Refusal | null> {
  if (member.role !== 'admin' || !member.active || (await hasOtherAdmin(tx, member.id))) return null;
  return new Refusal('conflict', 'last-admin', `${member.name} is the only administrator. Make another member an administrator first.`);
}

export function changeMember(
  database: Database,
  admin: User,
  memberId: number,
  change: Partial<Pick<User, 'name' | 'role'>>,
): Promise<TeamMember | Refusal> {
  return database.as(admin.id, async (tx) => {
    const before = await memberOf(tx, memberId);
    if (isRefusal(before)) return before;
    const refused = change.role !== undefined && change.role !== 'admin' ? await demandOtherAdmin(tx, before) : null;
    if (isRefusal(refused)) return refused;
    if (Object.values(change).some((value) => value !== undefined)) await updateMember(tx, memberId, change);
    const after = await memberOf(tx, memberId);
    if (isRefusal(after) || after.role === before.role) return after;
    await notePower(tx, admin.id, memberId);
    const about = `made ${after.name} ${after.role} instead of ${before.role}`;
    await writeDown(tx, admin, { kind: 'account', about, subjectId: memberId });
    return after;
  });
}

/** Sets the password of another member: they are signed out everywhere, and their tokens end. */
export async function setPassword(
  database: Database,
  admin: User,
  memberId: number,
  password: string,
): Promise<Record<string, never> | Refusal> {
  if (memberId === admin.id)
    return new Refusal(
      'conflict',
      'own-password',
      'This is your own password. Change it under Your account, where the present one is asked for.',
    );
  const member = await database.as(admin.id, (tx) => memberOf(tx, memberId));
  if (isRefusal(member)) return member;
  const refused = demandGoodPassword(password, member);
  if (isRefusal(refused)) return refused;
  const passwordHash = await hashPassword(password);
  return database.as(admin.id, async (tx) => {
    const still = await memberOf(tx, memberId);
    if (isRefusal(still)) return still;
    await storePassword(tx, memberId, passwordHash);
    await endSessions(tx, memberId, null, undefined);
    await revokeTokens(tx, memberId);
    await notePower(tx, admin.id, memberId);
    await writeDown(tx, admin, { kind: 'account', about: `set the password of ${still.name}`, subjectId: memberId });
    return {};
  });
}

/** Whether a member may be deactivated: they are active, and not the only administrator. */
export function mayBeDeactivated(database: Database, admin: User, memberId: number): Promise<Refusal | null> {
  return database.as(admin.id, async (tx) => {
    const member = await memberOf(tx, memberId);
    if (isRefusal(member)) return member;
    if (!member.active) return new Refusal('conflict', 'inactive', `${member.name} is not active any more.`);
    return demandOtherAdmin(tx, member);
  });
}

export function activateMember(database: Database, admin: User, memberId: number): Promise<TeamMember | Refusal> {
  return database.as(admin.id, async (tx) => {
    const before = await memberOf(tx, memberId);
    if (isRefusal(before)) return before;
    await activate(tx, memberId);
    await notePower(tx, admin.id, memberId);
    await writeDown(tx, admin, { kind: 'account', about: `let ${before.name} in again`, subjectId: memberId });
    return memberOf(tx, memberId);
  });
}

export function resetSecondFactor(database: Database, admin: User, memberId: number): Promise<Record<string, never> | Refusal> {
  return database.work(async (tx) => {
    const name = await dropSecondFactor(tx, memberId);
    if (name === null) return notFound('member');
    await notePower(tx, admin.id, memberId);
    await writeDown(tx, admin, { kind: 'account', about: `took the second factor off ${name}`, subjectId: memberId });
    return {};
  });
}
