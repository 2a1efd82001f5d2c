import { z } from 'zod';
import { json, rowsOf } from '../base/db/rows';
import { recordReach, shareLevel } from '@fulvet/contract';
import { notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { Workspace } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';

const workspaceRow = z.object({
  name: z.string(),
  record_reach: recordReach,
  widest_share: shareLevel,
  second_factor_needed: z.boolean(),
  identity_provider: json<Workspace['identityProvider']>().nullable(),
  link_address: z.string().nullable(),
  writing_rights: json<Workspace['writingRights']>(),
  automatic: json<Workspace['automatic']>(),
  measuring: json<Workspace['measuring']>(),
});

export async function workspaceOf(tx: Tx): Promise<Workspace | Refusal> {
  const rows = await rowsOf(
    tx,
    workspaceRow,
    sql`SELECT name, record_reach, widest_share, second_factor_needed, identity_provider, link_address, writing_rights, automatic, measuring FROM workspace`,
  );
  const [row] = rows;
  if (!row) return notFound('workspace');
  return {
    name: row.name,
    recordReach: row.record_reach,
    widestShare: row.widest_share,
    secondFactorNeeded: row.second_factor_needed,
    identityProvider: row.identity_provider,
    linkAddress: row.link_address,
    writingRights: row.writing_rights,
    automatic: row.automatic,
    measuring: row.measuring,
  };
}
