import { CERTAIN_DEAL_RULES, RULES } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../db/database';
import type { RulebookInForce } from '../decide/rulebookInForce';

/** Which emails of some conversations stand under which deals beyond doubt, by deal. */
export type DealActivity = ReadonlyMap<number, string>;

export async function dealActivity(tx: Tx, conversations: readonly number[]): Promise<DealActivity> {
  const { rows } = await tx.execute<{ deal: number; emails: string }>(sql`
    SELECT f.record_id AS deal, string_agg(f.email_id::text, ',' ORDER BY f.email_id) AS emails FROM filings f JOIN emails e ON e.id = f.email_id
    WHERE f.kind = 'deal' AND f.rule = ANY(${sql.param([...CERTAIN_DEAL_RULES])}::text[]) AND e.conversation_id = ANY(${sql.param([...conversations])}::bigint[]) GROUP BY 1`);
  return new Map(rows.map((row) => [row.deal, row.emails]));
}

/**
 * Where deals were written about more or less than before, emails whose deal goes by score may go otherwise: those under the same people and
 * accounts that stand under a deal by score, or under none, are to be decided anew.
 *
 * @returns whether there are any; a job then decides them
 */
export async function letScoresFollow(
  tx: Tx,
  before: DealActivity,
  conversations: readonly number[],
  inForce: RulebookInForce,
): Promise<boolean> {
  if (!inForce.rulebooks.some((one) => one.source.match.deal === 'scored')) return false;
  const after = await dealActivity(tx, conversations);
  const deals = [...new Set([...before.keys(), ...after.keys()])].filter((id) => before.get(id) !== after.get(id));
  if (deals.length === 0) return false;
  const these = sql.param(deals);
  const { rows } = await tx.execute(sql`
    UPDATE emails e SET decided_at = NULL WHERE e.conversation_id <> ALL(${sql.param([...conversations])}::bigint[]) AND e.outcome IN ('filed', 'waiting')
      AND e.id IN (
        SELECT f.email_id FROM deal_people p JOIN filings f ON f.kind = p.kind AND f.record_id = p.person_id WHERE p.deal_id = ANY(${these}::bigint[])
        UNION ALL SELECT f.email_id FROM deals d JOIN filings f ON f.kind = 'account' AND f.record_id = d.account_id WHERE d.id = ANY(${these}::bigint[]))
      AND NOT EXISTS (SELECT FROM filings f WHERE f.email_id = e.id AND f.kind = 'deal' AND f.rule <> ${RULES.dealByScore})
    RETURNING e.id`);
  return rows.length > 0;
}
