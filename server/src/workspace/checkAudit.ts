import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import type { AuditCheck } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { createHash } from 'node:crypto';
import type { Db, Tx } from '../base/db/database';

const SEPARATOR = '\u001f';

const auditLogRow = z.object({
  at: z.string(),
  actor: z.string(),
  kind: z.string(),
  about: z.string(),
  hash: z.string(),
  chain: z.string(),
  place: z.string(),
  actor_id: z.string(),
  email_id: z.string(),
  subject_id: z.string(),
  previous: z.string(),
});

/**
 * Computes every hash of the log again, apart from the database that wrote them, and follows each chain from its first entry. What was changed, removed or put
 * in between shows. That entries at the very end of a chain were cut off shows only to those who have noted its head before.
 */
export async function checkAudit(db: Db | Tx): Promise<AuditCheck> {
  const broken: string[] = [];
  const chains = new Map<string, { entries: number; head: string }>();
  const PAGE = 5000;
  for (let [chain, place] = ['', 0]; ;) {
    const rows = await rowsOf(
      db,
      auditLogRow,
      sql`
      SELECT chain, place::text AS place, to_char(at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"') AS at, coalesce(actor_id::text, '') AS actor_id, actor, kind, about, coalesce(email_id::text, '') AS email_id, coalesce(subject_id::text, '') AS subject_id, previous, hash
      FROM audit_log WHERE (chain COLLATE "C", audit_log.place) > (${chain}, ${place}) ORDER BY chain COLLATE "C", audit_log.place LIMIT ${PAGE}`,
    );
    for (const row of rows) {
      const before = chains.get(row.chain) ?? { entries: 0, head: '' };
      const where = `entry ${row.place} of the chain “${row.chain}”`;
      if (Number(row.place) !== before.entries + 1) broken.push(`Before ${where}, entries are missing.`);
      if (row.previous !== before.head) broken.push(`${where[0]?.toUpperCase() ?? ''}${where.slice(1)} does not follow the one before it.`);
      const parts = [
        row.previous,
        row.chain,
        row.place,
        row.at,
        row.actor_id,
        row.actor,
        row.kind,
        row.about,
        row.email_id,
        row.subject_id,
      ];
      if (createHash('sha256').update(parts.join(SEPARATOR), 'utf8').digest('hex') !== row.hash)
        broken.push(`What ${where} says was changed.`);
      chains.set(row.chain, { entries: Number(row.place), head: row.hash });
    }
    const last = rows.at(-1);
    if (!last || rows.length < PAGE) break;
    [chain, place] = [last.chain, Number(last.place)];
  }
  const listed = [...chains].map(([chain, { entries, head }]) => ({ chain, entries, head }));
  return {
    intact: broken.length === 0,
    entries: listed.reduce((sum, item) => sum + item.entries, 0),
    chains: listed,
    broken: broken.slice(0, 100),
  };
}
