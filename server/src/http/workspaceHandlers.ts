import type { RecordReach, Workspace } from '@fulvet/contract';
import type { ShareLevel } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { writeDown } from '../base/audit';
import type { Tx } from '../base/db/database';
import type { Handlers } from '../base/handler';
import { Refusal, notFound } from '../base/refusal';
import { PROVIDER_SECRET } from '../base/secrets/sealedFor';
import type { Services } from '../base/services';
import { announceDecided } from '../decision/announceDecided';

type WorkspaceHandlers = Pick<Handlers, 'getWorkspace' | 'putWorkspace' | 'getDealTeam' | 'setDealTeam'>;

export const workspaceHandlers: WorkspaceHandlers = {
  getWorkspace: ({ user, services }) => services.database.as(user.id, workspaceOf),

  putWorkspace: ({ user, body, services }) =>
    services.database.as(user.id, async (tx) => {
      const { identityProvider, ...plain } = body;
      if (body.secondFactorNeeded) await demandOwnFactor(tx, user.id);
      const before = await workspaceOf(tx);
      await tx.execute(sql`UPDATE workspace SET name = coalesce(${plain.name ?? null}, name), record_reach = coalesce(${plain.recordReach ?? null}, record_reach),
        widest_share = coalesce(${plain.widestShare ?? null}, widest_share), second_factor_needed = coalesce(${plain.secondFactorNeeded ?? null}::boolean, second_factor_needed)`);
      if (identityProvider !== undefined) await putProvider(services, tx, identityProvider);
      const after = await workspaceOf(tx);
      const words = changedWords(before, after);
      if (words.length > 0) await writeDown(tx, user, { kind: 'settings', about: words.join('; ') });
      return after;
    }),

  getDealTeam: ({ user, params, services }) => services.database.as(user.id, (tx) => teamOfDeal(tx, params.id)),

  setDealTeam: ({ user, params, body, services }) =>
    services.database.as(user.id, async (tx) => {
      await teamOfDeal(tx, params.id);
      const { rows: mail } = await tx.execute<{ id: number }>(
        sql`SELECT email_id AS id FROM filings WHERE kind = 'deal' AND record_id = ${params.id} ORDER BY email_id DESC LIMIT 200`,
      );
      const told = mail.map((one) => one.id);
      await announceDecided(tx, told);
      await tx.execute(sql`DELETE FROM deal_team WHERE deal_id = ${params.id} AND NOT user_id = ANY(${sql.param(body.members)}::bigint[])`);
      await tx.execute(
        sql`INSERT INTO deal_team (deal_id, user_id) SELECT ${params.id}::bigint, id FROM users WHERE id = ANY(${sql.param(body.members)}::bigint[]) AND active ON CONFLICT DO NOTHING`,
      );
      const team = await teamOfDeal(tx, params.id);
      await writeDown(tx, user, {
        kind: 'share',
        about: `the team of the deal ${team.name} is ${team.members.map((one) => one.name).join(', ') || 'nobody'}`,
      });
      await announceDecided(tx, told);
      return team;
    }),
};

export async function workspaceOf(tx: Tx): Promise<Workspace> {
  const { rows } = await tx.execute<{
    name: string;
    record_reach: RecordReach;
    widest_share: ShareLevel;
    second_factor_needed: boolean;
    identity_provider: Workspace['identityProvider'];
  }>(sql`SELECT name, record_reach, widest_share, second_factor_needed, identity_provider FROM workspace`);
  const [row] = rows;
  if (!row) throw notFound('workspace');
  return {
    name: row.name,
    recordReach: row.record_reach,
    widestShare: row.widest_share,
    secondFactorNeeded: row.second_factor_needed,
    identityProvider: row.identity_provider,
  };
}

async function demandOwnFactor(tx: Tx, userId: number): Promise<void> {
  const { rows } = await tx.execute<{ on: boolean }>(sql`SELECT second_factor AS on FROM users WHERE id = ${userId}`);
  if (!rows[0]?.on)
    throw new Refusal(409, 'no-second-factor', 'Set up a second factor for yourself first, or you would lock yourself out.');
}

async function putProvider(
  { keyRing, database }: Services,
  tx: Tx,
  provider: { issuer: string; clientId: string; label: string; clientSecret?: string | undefined } | null,
): Promise<void> {
  if (provider === null) {
    await tx.execute(sql`UPDATE workspace SET identity_provider = NULL`);
    await database.worker.execute(sql`DELETE FROM workspace_secrets WHERE name = ${PROVIDER_SECRET}`);
    return;
  }
  const { clientSecret, ...shown } = { ...provider, issuer: provider.issuer.replace(/\/$/, '') };
  if (clientSecret !== undefined)
    await database.worker.execute(
      sql`INSERT INTO workspace_secrets (name, sealed) VALUES (${PROVIDER_SECRET}, ${keyRing.seal(clientSecret, PROVIDER_SECRET)}) ON CONFLICT (name) DO UPDATE SET sealed = excluded.sealed`,
    );
  else {
    // A secret that is kept never goes to another server.
    const { rows } = await tx.execute<{ issuer: string | null }>(sql`SELECT identity_provider ->> 'issuer' AS issuer FROM workspace`);
    const kept = await database.worker.execute(sql`SELECT FROM workspace_secrets WHERE name = ${PROVIDER_SECRET}`);
    if (rows[0]?.issuer !== shown.issuer || kept.rowCount === 0)
      throw new Refusal(422, 'bad-input', 'Give the client secret for this provider.', {
        'identityProvider.clientSecret': 'is missing',
      });
  }
  await tx.execute(sql`UPDATE workspace SET identity_provider = ${JSON.stringify(shown)}::jsonb`);
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
    ...(JSON.stringify(before.identityProvider) === JSON.stringify(after.identityProvider)
      ? []
      : [
          after.identityProvider
            ? `members may sign in at ${after.identityProvider.issuer}`
            : 'nobody signs in at an identity provider any more',
        ]),
  ];
}

async function teamOfDeal(tx: Tx, id: number): Promise<{ name: string; members: { id: number; name: string }[] }> {
  const { rows } = await tx.execute<{ name: string; members: { id: number; name: string }[] }>(sql`
    SELECT d.name, coalesce((SELECT json_agg(json_build_object('id', u.id, 'name', u.name) ORDER BY u.name) FROM deal_team t JOIN users u ON u.id = t.user_id WHERE t.deal_id = d.id), '[]') AS members FROM deals d WHERE d.id = ${id}`);
  if (!rows[0]) throw notFound('deal');
  return rows[0];
}
