import { z } from 'zod';
import { manyRowsOf } from '../../base/db/rows';
import { sql } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';
import type { TellsApart } from '../../base/db/personKey';
import { personKeyInSql } from '../../base/db/personKey';

const participantRow = z.object({ address: z.string(), times: z.array(z.number()) });

/** When people's emails with these addresses were sent, by the key that the rulebook gives them; null: with all. */
export async function loadExchanges(tx: Tx, rulebook: TellsApart, addresses: readonly string[] | null): Promise<Map<string, number[]>> {
  const person = personKeyInSql(rulebook, sql`p.address`);
  const rows = await manyRowsOf(
    tx,
    participantRow,
    sql`
    SELECT ${person} AS address, array_agg(DISTINCT (extract(epoch FROM e.sent_at) * 1000)::float8) AS times FROM participants p JOIN emails e ON e.id = p.email_id
    WHERE e.mail_class IN ('person', 'event') AND p.role IN ('from', 'to', 'cc', 'bcc') AND ${addresses === null ? sql`true` : sql`${person} = ANY(${sql.param([...addresses])}::text[])`} GROUP BY 1`,
  );
  return new Map(rows.map((row) => [row.address, row.times]));
}
