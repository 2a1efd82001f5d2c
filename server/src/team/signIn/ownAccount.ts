import { Refusal, isRefusal } from '../../base/refusal';
import type { AccessToken, TokenScope, User } from '@fulvet/contract';
import { writeDown } from '../../base/audit';
import type { Database } from '../../base/db/database';
import type { Services } from '../../base/services';
import { workspaceOf } from '../../workspace/workspaceSettings';
import { dropSecondFactor, storePassword } from '../queries';
import { demandGoodPassword, hashPassword, isPassword } from './passwords';
import { countAttempt } from './attempts';
import { hasKey, lockedFactor, passwordHashOf, revokeToken, secondFactorOf, switchFactorOn } from './queries';
import { newKey, newRecoveryCodes, storeKey, takeCode } from './secondFactor';
import { endSessions } from './sessions';
import { createToken } from './tokens';

/** Who asks for a change of their own account, and from where. */
export interface Asker {
  user: User;
  ip: string | undefined;
}

/** What is done to an account is asked for with its password: an open page is not enough. */
async function demandPassword(
  { database, attemptLimits }: Pick<Services, 'database' | 'attemptLimits'>,
  { user, ip }: Asker,
  password: string,
): Promise<Refusal | null> {
  const wasRight = await countAttempt(database, attemptLimits, { kind: 'password', ip, accountId: user.id });
  if (isRefusal(wasRight)) return wasRight;
  if (await isPassword(await passwordHashOf(database.app, user.id), password)) {
    await wasRight();
    return null;
  }
  await writeDown(database.worker, null, {
    kind: 'failed sign-in',
    about: 'a wrong password was given for a change of the account',
    subjectId: user.id,
  });
  return new Refusal('forbidden', 'wrong-password', 'This is not your password. Nothing was changed.', {
    password: 'is wrong',
    current: 'is wrong',
  });
}

interface WantedToken {
  name: string;
  password: string;
  scopes: TokenScope[];
  days?: number | null | undefined;
}

/** Creates an access token, told once. */
export async function createOwnToken(
  services: Services,
  asker: Asker,
  wanted: WantedToken,
): Promise<{ token: string; entry: AccessToken } | Refusal> {
  const { user } = asker;
  const { name, scopes } = wanted;
  if (scopes.includes('admin') && user.role !== 'admin')
    return new Refusal('forbidden', 'token-scope', 'A token never may more than you may: choose it without administration.', {
      scopes: 'has more than you may',
    });
  const refused = await demandPassword(services, asker, wanted.password);
  if (isRefusal(refused)) return refused;
  return services.database.as(user.id, async (tx) => {
    const { id, token, createdAt, expiresAt } = await createToken(tx, user.id, name, { scopes, days: wanted.days ?? null });
    const until = expiresAt ? `, until ${expiresAt.toISOString().slice(0, 10)}` : '';
    const about = `made the access token ${name} for ${scopes.join(', ')}${until}`;
    await writeDown(tx, user, { kind: 'token', about, subjectId: user.id });
    const entry = {
      id,
      name,
      createdAt: createdAt.toISOString(),
      lastUsedAt: null,
      scopes,
      expiresAt: expiresAt?.toISOString() ?? null,
    };
    return { token, entry };
  });
}

export function revokeOwnToken(database: Database, user: User, id: number): Promise<Record<string, never> | Refusal> {
  return database.as(user.id, async (tx) => {
    const name = await revokeToken(tx, user.id, id);
    if (name === null) return new Refusal('unknown', 'not-found', 'There is no such token of yours, or it is revoked already.');
    await writeDown(tx, user, { kind: 'token', about: `revoked the access token ${name}`, subjectId: user.id });
    return {};
  });
}

/** Changes one's own password. All other sessions end. */
export async function changeOwnPassword(
  services: Services,
  asker: Asker,
  { current, password }: { current: string; password: string },
  session: string | undefined,
): Promise<Record<string, never> | Refusal> {
  const { user } = asker;
  const refused = await demandPassword(services, asker, current);
  if (isRefusal(refused)) return refused;
  const weak = demandGoodPassword(password, user);
  if (isRefusal(weak)) return weak;
  const passwordHash = await hashPassword(password);
  await services.database.as(user.id, async (tx) => {
    await storePassword(tx, user.id, passwordHash);
    await endSessions(tx, user.id, null, session);
    await writeDown(tx, user, { kind: 'account', about: 'changed their own password', subjectId: user.id });
  });
  return {};
}

/** Begins a second factor: it is on once a code of the key was given. */
export async function beginSecondFactor(
  services: Services,
  asker: Asker,
  password: string,
): Promise<{ key: string; uri: string } | Refusal> {
  const { user } = asker;
  const refused = await demandPassword(services, asker, password);
  if (isRefusal(refused)) return refused;
  const { on } = await secondFactorOf(services.database.worker, user.id);
  if (on) return new Refusal('conflict', 'on-already', 'You have a second factor already. Switch it off to begin with another.');
  const { key, uri } = newKey(user.email);
  await storeKey(services.database.worker, services.keyRing, user.id, key);
  return { key, uri };
}

/** Switches the second factor on, if the code is right. @returns the recovery codes */
export async function confirmSecondFactor(services: Services, { user, ip }: Asker, code: string): Promise<string[] | Refusal> {
  const { database, keyRing, attemptLimits } = services;
  const wasRight = await countAttempt(database, attemptLimits, { kind: 'code', ip, accountId: user.id });
  if (isRefusal(wasRight)) return wasRight;
  const recoveryCodes = await database.work(async (tx) => {
    if (await lockedFactor(tx, user.id))
      return new Refusal('conflict', 'on-already', 'Your second factor is on already. Nothing was changed.');
    if (!(await hasKey(tx, user.id))) return new Refusal('conflict', 'not-begun', 'Begin with a key first.');
    if (!(await takeCode(tx, keyRing, user.id, code)))
      return new Refusal(
        'unfit',
        'wrong-code',
        'The code is not right. Check the clock of the device, and give the code that it shows now.',
        { code: 'is not right' },
      );
    await switchFactorOn(tx, user.id);
    await writeDown(tx, user, { kind: 'account', about: 'set up a second factor', subjectId: user.id });
    return newRecoveryCodes(tx, user.id);
  });
  if (!isRefusal(recoveryCodes)) await wasRight();
  return recoveryCodes;
}

export async function endSecondFactor(services: Services, asker: Asker, password: string): Promise<Record<string, never> | Refusal> {
  const { user } = asker;
  const refused = await demandPassword(services, asker, password);
  if (isRefusal(refused)) return refused;
  const workspace = await services.database.as(user.id, workspaceOf);
  if (isRefusal(workspace)) return workspace;
  if (workspace.secondFactorNeeded) return new Refusal('conflict', 'needed', 'The workspace needs a second factor of every member.');
  return services.database.work(async (tx) => {
    await dropSecondFactor(tx, user.id);
    await writeDown(tx, user, { kind: 'account', about: 'switched their second factor off', subjectId: user.id });
    return {};
  });
}
