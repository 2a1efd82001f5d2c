import { z } from 'zod';
import { json, moment, rowsOf } from '../base/db/rows';
import type { DomainRow, TuningQuery } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { containing } from '../base/db/like';
import { whoseDomain } from '../records/whoseDomain';
import type { DomainOwner } from '../records/whoseDomain';

const emailRow = z.object({
  last: moment,
  rule: z.string().nullable(),
  owners: json<DomainOwner[]>(),
  domain: z.string(),
  emails: z.number(),
  sent: z.number(),
  received: z.number(),
  machine: z.number(),
  filed: z.number(),
  waiting: z.number(),
  unfiled: z.number(),
  kept_out: z.number(),
  total: z.number(),
});

/** Who writes to us and is written to, by domain: how much, what kind, outcome, and which rule said so most. */
export async function domainUse(tx: Tx, query: TuningQuery): Promise<{ rows: DomainRow[]; total: number }> {
  const having = {
    all: sql`true`,
    unfiled: sql`count(*) FILTER (WHERE o.outcome IN ('unfiled', 'waiting')) > 0`,
    junk: sql`count(*) FILTER (WHERE o.mail_class NOT IN ('person', 'event') OR o.outcome = 'kept out') > 0`,
  }[query.show];
  const order = { all: sql`emails`, unfiled: sql`unfiled + waiting`, junk: sql`greatest(machine, kept_out)` }[query.show];
  const like = containing(query.text.toLowerCase());
  const rows = await rowsOf(
    tx,
    emailRow,
    sql`
    WITH o AS MATERIALIZED (SELECT x.domain, e.direction, e.mail_class, e.outcome, e.sent_at, e.steps FROM emails e, unnest(e.external_domains) AS x(domain)
        WHERE e.sent_at > now() - make_interval(days => ${query.days}) AND e.sent_at <= now() + interval '1 day' AND e.decided_at IS NOT NULL AND x.domain LIKE ${like}),
      used AS (SELECT o.domain, count(*)::int AS emails, count(*) FILTER (WHERE o.direction = 'sent')::int AS sent, count(*) FILTER (WHERE o.direction = 'received')::int AS received,
        count(*) FILTER (WHERE o.mail_class NOT IN ('person', 'event'))::int AS machine, count(*) FILTER (WHERE o.outcome = 'filed')::int AS filed, count(*) FILTER (WHERE o.outcome = 'waiting')::int AS waiting,
        count(*) FILTER (WHERE o.outcome = 'unfiled')::int AS unfiled, count(*) FILTER (WHERE o.outcome = 'kept out')::int AS kept_out, max(o.sent_at) AS last FROM o GROUP BY 1 HAVING ${having}),
      page AS MATERIALIZED (SELECT u.*, count(*) OVER ()::int AS total FROM used u ORDER BY ${order} DESC, u.domain LIMIT ${query.limit} OFFSET ${query.offset}),
      applied AS (SELECT DISTINCT ON (c.domain) c.domain, c.rule FROM (
          SELECT o.domain, s.value ->> 'rule' AS rule, count(*) AS times FROM o JOIN page g ON g.domain = o.domain CROSS JOIN LATERAL jsonb_array_elements(o.steps) s
          WHERE s.value ->> 'verdict' IN ('kept out', 'left to its owner', 'waits', 'matched', 'no match', 'created') AND s.value ->> 'rule' IS NOT NULL GROUP BY 1, 2) c
        ORDER BY c.domain, c.times DESC, c.rule)
    SELECT g.*, ${whoseDomain(sql`g.domain`)} AS owners, a.rule FROM page g LEFT JOIN applied a ON a.domain = g.domain ORDER BY ${order} DESC, g.domain`,
  );
  return {
    rows: rows.map(({ kept_out: keptOut, total: _, last, owners, ...row }) => ({
      ...row,
      accounts: owners.map(({ name }) => name),
      keptOut,
      last,
    })),
    total: rows[0]?.total ?? 0,
  };
}
