import { recordKind } from '@fulvet/contract';
import { HAND_RULES } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Tx } from '../base/db/database';
import { manyRowsOf } from '../base/db/rows';

const accuracyRow = z.object({
  rule: z.string(),
  kinds: z.array(recordKind),
  since: z.string(),
  filed: z.number(),
  corrected: z.number(),
});

export type RuleAccuracy = z.infer<typeof accuracyRow>;

/**
 * How often each rule of choosing was right: the emails that it filed in so many days, and those of them that people took away from there by hand.
 * What no one looked at counts as right. Of emails that the reader knows of.
 */
export function ruleAccuracy(tx: Tx, days: number): Promise<RuleAccuracy[]> {
  const since = sql`(current_date - ${days}::int)`;
  const byRules = sql`e.sent_at >= ${since} AND rule <> ALL(${sql.param([...HAND_RULES])}::text[])`;
  return manyRowsOf(
    tx,
    accuracyRow,
    sql`
    SELECT rule, array_agg(DISTINCT kind ORDER BY kind) AS kinds, ${since}::text AS since, count(DISTINCT email_id)::int AS filed, count(DISTINCT email_id) FILTER (WHERE corrected)::int AS corrected
    FROM (SELECT f.rule, f.kind, f.email_id, false AS corrected FROM filings f JOIN emails e ON e.id = f.email_id WHERE ${byRules}
      UNION ALL SELECT c.rule, c.kind, c.email_id, true FROM corrected_filings c JOIN emails e ON e.id = c.email_id WHERE ${byRules}) a
    GROUP BY 1 ORDER BY corrected DESC, filed DESC`,
  );
}
