import { z } from 'zod';
import { moment, rowsOf } from '../base/db/rows';
import type { RuleUse } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Services } from '../base/services';

export type Parts = Pick<Services, 'database'>;

const emailRow = z.object({ rule: z.string(), took: z.number(), last: moment });

/** What each rule took in the last days, by what the steps said. */
export async function tookIn(services: Parts, days: number): Promise<Map<string, RuleUse>> {
  const rows = await rowsOf(
    services.database.worker,
    emailRow,
    sql`
    SELECT rule, count(DISTINCT id)::int AS took, max(sent_at) AS last FROM (
      SELECT e.id, e.sent_at, s ->> 'rule' AS rule FROM emails e, jsonb_array_elements(e.steps) s WHERE e.outcome <> 'sealed' AND e.sent_at > now() - make_interval(days => ${days}) AND s ->> 'rule' IS NOT NULL
      UNION ALL SELECT e.id, e.sent_at, v ->> 'rule' FROM emails e JOIN dockets k ON k.email_id = e.id, jsonb_array_elements(k.docket) s, jsonb_array_elements(s -> 'evidence') v
        WHERE e.outcome <> 'sealed' AND e.sent_at > now() - make_interval(days => ${days}) AND v ->> 'fact' = 'rule'
      UNION ALL SELECT e.id, e.sent_at, v ->> 'entry' FROM emails e JOIN dockets k ON k.email_id = e.id, jsonb_array_elements(k.docket) s, jsonb_array_elements(s -> 'evidence') v
        WHERE e.outcome <> 'sealed' AND e.sent_at > now() - make_interval(days => ${days}) AND v ->> 'fact' = 'entry') u GROUP BY rule`,
  );
  return new Map(rows.map((row) => [row.rule, { rule: row.rule, took: row.took, lastAt: row.last }]));
}
