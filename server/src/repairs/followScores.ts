import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { CERTAIN_DEAL_RULES } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { goesByScore, markByScore } from '../decision/lateActivity';
import type { RulebookInForce } from '../rulebook/rulebookInForce';

/** Which emails of some conversations stand under which deals beyond doubt, by deal. */
export type DealActivity = ReadonlyMap<number, string>;

const filingRow = z.object({ deal: z.number(), emails: z.string() });

export async function dealActivity(tx: Tx, conversations: readonly number[]): Promise<DealActivity> {
  const rows = await rowsOf(
    tx,
    filingRow,
    sql`
    SELECT f.record_id AS deal, string_agg(f.email_id::text, ',' ORDER BY f.email_id) AS emails FROM filings f JOIN emails e ON e.id = f.email_id
    WHERE f.kind = 'deal' AND f.rule = ANY(${sql.param([...CERTAIN_DEAL_RULES])}::text[]) AND e.conversation_id = ANY(${sql.param([...conversations])}::bigint[]) GROUP BY 1`,
  );
  return new Map(rows.map((row) => [row.deal, row.emails]));
}

/**
 * Where deals were written about more or less than before, emails whose deal goes by score may go otherwise: those under the same people and
 * accounts that stand under a deal by score, or under none, are to be decided again.
 *
 * @returns whether there are any; a job then decides them
 */
export async function letScoresFollow(
  tx: Tx,
  before: DealActivity,
  conversations: readonly number[],
  inForce: RulebookInForce,
): Promise<boolean> {
  if (!goesByScore(inForce)) return false;
  const after = await dealActivity(tx, conversations);
  const deals = [...new Set([...before.keys(), ...after.keys()])].filter((id) => before.get(id) !== after.get(id));
  return (await markByScore(tx, new Map(deals.map((deal) => [deal, null])), conversations)) > 0;
}
