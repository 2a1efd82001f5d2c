import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { announce } from '../base/live/changes';

const groupRow = z.object({
  all: z.boolean(),
  readers: z.array(z.number()),
  others: z.array(z.number()),
  records: z.array(z.string()),
  shown: z.array(z.string()),
});

/**
 * Open pages learn which histories changed: of what everyone sees everyone, of the rest those who see the emails. Who does is asked of the same
 * function that answers "Who can see this"; those who know of an email only are told of its accounts and deals only.
 */
export async function announceDecided(tx: Tx, emailIds: readonly number[]): Promise<void> {
  if (emailIds.length === 0) return;
  const rows = await rowsOf(
    tx,
    groupRow,
    sql`
    WITH wanted AS (SELECT id, visibility = 'everyone' AND outcome <> 'sealed' AND NOT existence_only AS open FROM emails WHERE id = ANY(${sql.param([...emailIds])}::bigint[])),
    viewers AS (
      SELECT v.email_id, array_agg(DISTINCT v.user_id) FILTER (WHERE v.reads) AS readers, array_agg(DISTINCT v.user_id) AS all_viewers
      FROM fulvet_viewers(ARRAY(SELECT id FROM wanted WHERE open IS NOT TRUE)) v GROUP BY 1)
    SELECT coalesce(w.open, false) AS all, coalesce(v.readers, '{}') AS readers, ARRAY(SELECT unnest(v.all_viewers) EXCEPT SELECT unnest(v.readers)) AS others,
      coalesce(array_agg(DISTINCT f.kind || ':' || f.record_id) FILTER (WHERE f.email_id IS NOT NULL), '{}') AS records,
      coalesce(array_agg(DISTINCT f.kind || ':' || f.record_id) FILTER (WHERE f.kind IN ('account', 'deal')), '{}') AS shown
    FROM wanted w LEFT JOIN viewers v ON v.email_id = w.id LEFT JOIN filings f ON f.email_id = w.id GROUP BY 1, 2, 3 LIMIT 200`,
  );
  for (const row of rows) {
    if (row.all || row.readers.length > 0)
      await announce(tx, { kind: 'mail', to: row.all ? 'everyone' : row.readers, records: row.records });
    if (row.others.length > 0) await announce(tx, { kind: 'mail', to: row.others, records: row.shown });
  }
}
