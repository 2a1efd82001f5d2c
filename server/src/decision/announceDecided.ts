import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { announce } from '../base/live/changes';

const emailRow = z.object({ all: z.boolean(), owners: z.array(z.number()), records: z.array(z.string()) });

/** Open pages learn which histories changed: of those that everyone sees everyone, of the others those who may read the emails. */
export async function announceDecided(tx: Tx, emailIds: readonly number[]): Promise<void> {
  if (emailIds.length === 0) return;
  const rows = await rowsOf(
    tx,
    emailRow,
    sql`
    SELECT e.visibility = 'everyone' AS all, CASE WHEN e.visibility = 'everyone' THEN '{}' ELSE e.owner_ids || e.granted_ids || coalesce(reached.ids, '{}') END AS owners,
      coalesce(array_agg(DISTINCT f.kind || ':' || f.record_id) FILTER (WHERE f.email_id IS NOT NULL AND (NOT e.existence_only OR f.kind IN ('account', 'deal'))), '{}') AS records
    FROM emails e LEFT JOIN LATERAL (
      SELECT array_agg(m.user_id ORDER BY m.user_id) AS ids FROM team_members m JOIN teams t ON t.id = m.team_id WHERE e.visibility = 'teams' AND lower(t.name) = ANY(e.shared_teams)
      UNION ALL SELECT array_agg(coalesce(a.owner_id, c.owner_id, l.owner_id, d.owner_id)) FROM filings o
        LEFT JOIN accounts a ON o.kind = 'account' AND a.id = o.record_id LEFT JOIN contacts c ON o.kind = 'contact' AND c.id = o.record_id
        LEFT JOIN leads l ON o.kind = 'lead' AND l.id = o.record_id LEFT JOIN deals d ON o.kind = 'deal' AND d.id = o.record_id
        WHERE e.visibility = 'record' AND e.outcome <> 'sealed' AND o.email_id = e.id AND coalesce(a.owner_id, c.owner_id, l.owner_id, d.owner_id) IS NOT NULL
      UNION ALL SELECT array_agg(t.user_id) FROM filings o JOIN deal_team t ON o.kind = 'deal' AND t.deal_id = o.record_id WHERE e.visibility = 'record' AND e.outcome <> 'sealed' AND o.email_id = e.id
    ) reached ON reached.ids IS NOT NULL LEFT JOIN filings f ON f.email_id = e.id WHERE e.id = ANY(${sql.param([...emailIds])}::bigint[]) GROUP BY 1, 2 LIMIT 200`,
  );
  for (const row of rows) await announce(tx, { kind: 'mail', to: row.all ? 'everyone' : row.owners, records: row.records });
}
