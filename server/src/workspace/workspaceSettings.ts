import { notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { RecordReach, Workspace } from '@fulvet/contract';
import type { ShareLevel } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';

export async function workspaceOf(tx: Tx): Promise<Workspace | Refusal> {
  const { rows } = await tx.execute<{
    name: string;
    record_reach: RecordReach;
    widest_share: ShareLevel;
    second_factor_needed: boolean;
    identity_provider: Workspace['identityProvider'];
  }>(sql`SELECT name, record_reach, widest_share, second_factor_needed, identity_provider FROM workspace`);
  const [row] = rows;
  if (!row) return notFound('workspace');
  return {
    name: row.name,
    recordReach: row.record_reach,
    widestShare: row.widest_share,
    secondFactorNeeded: row.second_factor_needed,
    identityProvider: row.identity_provider,
  };
}
