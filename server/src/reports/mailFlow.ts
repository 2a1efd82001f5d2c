import type { MailFlow } from '@fulvet/contract';
import { unusualRules } from '@fulvet/core';
import type { UnusualRule } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { z } from 'zod';
import type { Tx } from '../base/db/database';
import { manyRowsOf, rowsOf } from '../base/db/rows';

const weekRow = z.object({ from: z.string(), filed: z.number(), waiting: z.number(), unfiled: z.number(), keptOut: z.number() });

/** The last weeks of seven days, oldest first; the last one ends now. Sealed mail is in no sum. */
const weekOf = (weeks: number): SQL => sql`(${weeks} - 1 - floor(extract(epoch FROM now() - e.sent_at) / 604800))::int`;
const within = (weeks: number): SQL =>
  sql`e.sent_at > now() - make_interval(days => ${weeks * 7}) AND e.sent_at <= now() AND e.outcome <> 'sealed' AND e.mail_class <> 'event'`;

/** Emails that the reader knows of, by week and outcome. */
export async function mailFlow(tx: Tx, weeks: number): Promise<MailFlow> {
  const rows = await rowsOf(
    tx,
    weekRow,
    sql`
    SELECT (now() - make_interval(days => (${weeks} - week) * 7))::date::text AS from, coalesce(filed, 0)::int AS filed, coalesce(waiting, 0)::int AS waiting, coalesce(unfiled, 0)::int AS unfiled, coalesce(kept, 0)::int AS "keptOut"
    FROM generate_series(0, ${weeks} - 1) AS week LEFT JOIN (
      SELECT ${weekOf(weeks)} AS week, count(*) FILTER (WHERE e.outcome = 'filed') AS filed, count(*) FILTER (WHERE e.outcome = 'waiting') AS waiting,
        count(*) FILTER (WHERE e.outcome = 'unfiled') AS unfiled, count(*) FILTER (WHERE e.outcome = 'kept out') AS kept
      FROM emails e WHERE ${within(weeks)} GROUP BY 1) c USING (week) ORDER BY week`,
  );
  return { weeks: rows };
}

/** How many weeks are compared; the last one with those before. */
const COMPARED_WEEKS = 9;

const ruleWeekRow = z.object({ rule: z.string().nullable(), counts: z.array(z.number()) });

/** Rules that decided a step of far more or far fewer emails in the last seven days than in the eight weeks before. */
export async function unusualRulesOf(tx: Tx): Promise<UnusualRule[]> {
  const counts = (of: SQL): SQL =>
    sql`ARRAY(SELECT coalesce((SELECT sum(c.count)::int FROM counted c WHERE c.week = w AND ${of}), 0) FROM generate_series(0, ${COMPARED_WEEKS} - 1) w ORDER BY w)`;
  const rows = await manyRowsOf(
    tx,
    ruleWeekRow,
    sql`
    WITH mail AS MATERIALIZED (SELECT ${weekOf(COMPARED_WEEKS)} AS week, e.steps FROM emails e WHERE ${within(COMPARED_WEEKS)}),
      counted AS MATERIALIZED (SELECT NULL::text AS rule, week, count(*)::int AS count FROM mail GROUP BY week
        UNION ALL SELECT s ->> 'rule', week, count(*)::int FROM mail, jsonb_array_elements(mail.steps) s WHERE s ->> 'rule' IS NOT NULL GROUP BY 1, 2)
    SELECT NULL AS rule, ${counts(sql`c.rule IS NULL`)} AS counts
    UNION ALL SELECT r.rule, ${counts(sql`c.rule = r.rule`)} FROM (SELECT DISTINCT rule FROM counted WHERE rule IS NOT NULL) r`,
  );
  const totals = rows.find((row) => row.rule === null)?.counts ?? [];
  return unusualRules(
    rows.flatMap(({ rule, counts: weeks }) => (rule === null ? [] : [{ rule, counts: weeks }])),
    totals,
  );
}
