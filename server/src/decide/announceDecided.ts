import { sql } from 'drizzle-orm';
import type { Tx } from '../db/database';
import { announce } from '../live/changes';

/** Open pages learn which histories changed: of those that everyone sees everyone, of the others those who may read the emails. */
export async function announceDecided(tx: Tx, emailIds: readonly number[]): Promise<void> {
  if (emailIds.length === 0) return;
  const { rows } = await tx.execute<{ all: boolean; owners: number[]; records: string[] }>(sql`
    SELECT e.visibility = 'everyone' AS all, CASE WHEN e.visibility = 'everyone' THEN '{}' ELSE e.owner_ids END AS owners,
      coalesce(array_agg(DISTINCT f.kind || ':' || f.record_id) FILTER (WHERE f.email_id IS NOT NULL), '{}') AS records
    FROM emails e LEFT JOIN filings f ON f.email_id = e.id WHERE e.id = ANY(${sql.param([...emailIds])}::bigint[]) GROUP BY 1, 2 LIMIT 200`);
  for (const row of rows) await announce(tx, { kind: 'mail', to: row.all ? 'everyone' : row.owners, records: row.records });
}
