import { workspace, workspaceSecrets } from '../base/db/schema';
import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { Refusal, isRefusal } from '../base/refusal';
import type { AutomaticSending, Measuring, RecordReach, User, Workspace, workspaceChange, WritingRights } from '@fulvet/contract';
import { sql, eq } from 'drizzle-orm';
import { isDeepStrictEqual } from 'node:util';
import { writeDown } from '../base/audit';
import type { Tx } from '../base/db/database';
import { PROVIDER_SECRET } from '../base/secrets/sealedFor';
import type { Services } from '../base/services';
import { noteStep } from '../base/undoLog';
import { plainOf, undoSettings } from './undoSettings';
import { workspaceOf } from './workspaceSettings';

const userRow = z.object({ on: z.boolean() });

async function demandOwnFactor(tx: Tx, userId: number): Promise<Refusal | null> {
  const rows = await rowsOf(tx, userRow, sql`SELECT second_factor AS on FROM users WHERE id = ${userId}`);
  if (!rows[0]?.on)
    return new Refusal('conflict', 'no-second-factor', 'Set up a second factor for yourself first, or you would lock yourself out.');
  return null;
}

const workspaceRow = z.object({ issuer: z.string().nullable() });

async function putProvider(
  { keyRing, database }: Services,
  tx: Tx,
  provider: { issuer: string; clientId: string; label: string; clientSecret?: string | undefined } | null,
): Promise<Refusal | null> {
  if (provider === null) {
    await tx.update(workspace).set({ identityProvider: null });
    await database.worker.delete(workspaceSecrets).where(eq(workspaceSecrets.name, PROVIDER_SECRET));
    return null;
  }
  const { clientSecret, ...shown } = { ...provider, issuer: provider.issuer.replace(/\/$/, '') };
  if (clientSecret !== undefined)
    await database.worker.execute(
      sql`INSERT INTO workspace_secrets (name, sealed) VALUES (${PROVIDER_SECRET}, ${keyRing.seal(clientSecret, PROVIDER_SECRET)}) ON CONFLICT (name) DO UPDATE SET sealed = excluded.sealed`,
    );
  else {
    // A secret that is kept never goes to another server.
    const rows = await rowsOf(tx, workspaceRow, sql`SELECT identity_provider ->> 'issuer' AS issuer FROM workspace`);
    const kept = await database.worker.execute(sql`SELECT FROM workspace_secrets WHERE name = ${PROVIDER_SECRET}`);
    if (rows[0]?.issuer !== shown.issuer || kept.rowCount === 0)
      return new Refusal('unfit', 'bad-input', 'Give the client secret for this provider.', {
        'identityProvider.clientSecret': 'is missing',
      });
  }
  await tx.update(workspace).set({ identityProvider: shown });
  return null;
}

function changedWords(before: Workspace, after: Workspace): string[] {
  const reach: Record<RecordReach, string> = { all: 'everybody’s', team: 'those of their teams', owner: 'their own' };
  return [
    ...(before.name === after.name ? [] : [`the workspace is called ${after.name}`]),
    ...(before.recordReach === after.recordReach ? [] : [`members see ${reach[after.recordReach]} records`]),
    ...(before.widestShare === after.widestShare ? [] : [`owners may share by hand as far as: ${after.widestShare}`]),
    ...(before.secondFactorNeeded === after.secondFactorNeeded
      ? []
      : [`a second factor is ${after.secondFactorNeeded ? 'needed' : 'not needed'}`]),
    ...rightsWords(before.writingRights, after.writingRights),
    ...automaticWords(before.automatic, after.automatic),
    ...measuringWords(before.measuring, after.measuring),
    ...(JSON.stringify(before.identityProvider) === JSON.stringify(after.identityProvider)
      ? []
      : [
          after.identityProvider
            ? `members may sign in at ${after.identityProvider.issuer}`
            : 'no one signs in at an identity provider any more',
        ]),
  ];
}

const RIGHTS = {
  send: 'emails are sent',
  share: 'texts and documents are shared',
  bulk: 'emails to many are sent',
  measure: 'openings of emails are counted',
} as const;
const ROLES = { rep: 'everyone but viewers', manager: 'managers and administrators', admin: 'administrators' } as const;

function rightsWords(before: WritingRights, after: WritingRights): string[] {
  return (['send', 'share', 'bulk', 'measure'] as const).flatMap((right) => {
    const { role, teamIds } = after[right];
    if (JSON.stringify(before[right]) === JSON.stringify(after[right])) return [];
    const teams = role === 'admin' || teamIds.length === 0 ? '' : `, outside administration only in ${teamIds.length} chosen teams`;
    return [`${RIGHTS[right]} by ${ROLES[role]}${teams}`];
  });
}

function automaticWords(before: AutomaticSending, after: AutomaticSending): string[] {
  return [
    ...(before.isHeld === after.isHeld ? [] : [after.isHeld ? 'nothing is sent by itself' : 'series go on']),
    ...(before.perDay === after.perDay ? [] : [`a mailbox sends at most ${after.perDay} emails a day by itself`]),
    ...(isDeepStrictEqual(before.holidays, after.holidays) ? [] : [`the calendar has ${after.holidays.length} holidays`]),
  ];
}

function measuringWords(before: Measuring, after: Measuring): string[] {
  return [
    ...(before.isOn === after.isOn ? [] : [after.isOn ? 'openings of emails may be counted' : 'no openings of emails are counted']),
    ...(before.notice === after.notice ? [] : [`recipients read: ${after.notice || 'nothing'}`]),
    ...(before.keepDays === after.keepDays ? [] : [`what was counted is forgotten after ${after.keepDays} days`]),
    ...(isDeepStrictEqual(before.ownRanges, after.ownRanges) ? [] : [`${after.ownRanges.length} address ranges are the company’s own`]),
    ...(isDeepStrictEqual(before.never, after.never) ? [] : [`openings are never counted for ${after.never.length} addresses and domains`]),
  ];
}

/** What is to hold for counting openings, with who decided it. */
function decidedMeasuring(
  user: User,
  { linkAddress, measuring: before }: Workspace,
  wanted: Change['measuring'],
): Measuring | null | Refusal {
  if (!wanted) return null;
  if (wanted.isOn && wanted.notice === '')
    return new Refusal('unfit', 'bad-input', 'Write a notice to recipients before you switch it on.', {
      'measuring.notice': 'is missing',
    });
  if (wanted.isOn && linkAddress === null)
    return new Refusal('conflict', 'no-link-address', 'Set the address of links first: openings are counted under it.');
  const isDecision = wanted.isOn && (!before.isOn || before.notice !== wanted.notice);
  const decided = isDecision ? { name: user.name, at: new Date().toISOString() } : before.decided;
  return { ...wanted, ownRanges: [...new Set(wanted.ownRanges)], never: [...new Set(wanted.never)].sort(), decided };
}

type Change = z.output<typeof workspaceChange>;

async function storePlain(
  tx: Tx,
  {
    name,
    recordReach,
    widestShare,
    secondFactorNeeded,
    writingRights,
    automatic,
    measuring,
  }: Omit<Change, 'identityProvider' | 'measuring'> & { measuring: Measuring | null },
): Promise<void> {
  await tx.execute(sql`UPDATE workspace SET name = coalesce(${name ?? null}, name), record_reach = coalesce(${recordReach ?? null}, record_reach),
    widest_share = coalesce(${widestShare ?? null}, widest_share), second_factor_needed = coalesce(${secondFactorNeeded ?? null}::boolean, second_factor_needed),
    writing_rights = coalesce(${writingRights ? JSON.stringify(writingRights) : null}::jsonb, writing_rights),
    automatic = coalesce(${automatic ? JSON.stringify(automatic) : null}::jsonb, automatic),
    measuring = coalesce(${measuring ? JSON.stringify(measuring) : null}::jsonb, measuring)`);
}

/** Changes settings of the workspace. What holds no secret can be undone. */
export function changeSettings(
  services: Services,
  user: User,
  { identityProvider, ...plain }: Change,
): Promise<(Workspace & { undo: number | null }) | Refusal> {
  return services.database.as(user.id, async (tx) => {
    const locksOut = plain.secondFactorNeeded ? await demandOwnFactor(tx, user.id) : null;
    if (isRefusal(locksOut)) return locksOut;
    const before = await workspaceOf(tx);
    if (isRefusal(before)) return before;
    const measuring = decidedMeasuring(user, before, plain.measuring);
    if (isRefusal(measuring)) return measuring;
    await storePlain(tx, { ...plain, measuring });
    const refused = identityProvider === undefined ? null : await putProvider(services, tx, identityProvider);
    if (isRefusal(refused)) return refused;
    const after = await workspaceOf(tx);
    if (isRefusal(after)) return after;
    const words = changedWords(before, after);
    if (words.length > 0) await writeDown(tx, user, { kind: 'settings', about: words.join('; ') });
    const payload = { before: plainOf(before), after: plainOf(after) };
    const isSame = isDeepStrictEqual(payload.before, payload.after);
    const undo = isSame ? null : await noteStep(tx, user.id, undoSettings, { summary: `Settings: ${words.join('; ')}`, payload });
    return { ...after, undo };
  });
}
