import { untagged } from '../base/db/untagged';
import { containing } from '../base/db/like';
import type { DomainRow, TuningQuery } from '@fulvet/contract';
import { RULES } from '@fulvet/core';
import type { DomainUse, HandFiling, HandRemoval, TuningFacts, UnknownAddress } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';

export const TUNING_DAYS = 90;
const MOST_DOMAINS = 5000;
const LAST_FILINGS = 200;

interface UseRow extends DomainUse {
  [column: string]: unknown;
  last: string;
  rule: string | null;
  account: string | null;
}

/** Who writes to us and is written to, by domain: how much, what kind, what became of it, and which rule said so most. */
export async function domainUse(tx: Tx, query: TuningQuery): Promise<{ rows: DomainRow[]; total: number }> {
  const having = {
    all: sql`true`,
    unmatched: sql`count(*) FILTER (WHERE o.outcome IN ('loose', 'waiting')) > 0`,
    junk: sql`count(*) FILTER (WHERE o.mail_class <> 'person' OR o.outcome = 'kept out') > 0`,
  }[query.show];
  const order = { all: sql`emails`, unmatched: sql`loose + waiting`, junk: sql`greatest(machine, kept_out)` }[query.show];
  const like = containing(query.text.toLowerCase());
  const { rows } = await tx.execute<UseRow & { kept_out: number; total: number }>(sql`
    WITH o AS MATERIALIZED (SELECT x.domain, e.direction, e.mail_class, e.outcome, e.sent_at, e.stops FROM emails e, unnest(e.external_domains) AS x(domain)
        WHERE e.sent_at > now() - make_interval(days => ${query.days}) AND e.decided_at IS NOT NULL AND x.domain LIKE ${like}),
      used AS (SELECT o.domain, count(*)::int AS emails, count(*) FILTER (WHERE o.direction = 'sent')::int AS sent, count(*) FILTER (WHERE o.direction = 'received')::int AS received,
        count(*) FILTER (WHERE o.mail_class <> 'person')::int AS machine, count(*) FILTER (WHERE o.outcome = 'filed')::int AS filed, count(*) FILTER (WHERE o.outcome = 'waiting')::int AS waiting,
        count(*) FILTER (WHERE o.outcome = 'loose')::int AS loose, count(*) FILTER (WHERE o.outcome = 'kept out')::int AS kept_out, max(o.sent_at) AS last FROM o GROUP BY 1 HAVING ${having})
    SELECT u.*, (SELECT a.name FROM account_domains d JOIN accounts a ON a.id = d.account_id WHERE d.domain = u.domain LIMIT 1) AS account,
      (SELECT s.value ->> 'rule' FROM o JOIN LATERAL jsonb_array_elements(o.stops) s ON true WHERE o.domain = u.domain AND s.value ->> 'verdict' IN ('kept out', 'left loose', 'waits', 'matched', 'no match', 'created') AND s.value ->> 'rule' IS NOT NULL GROUP BY 1 ORDER BY count(*) DESC LIMIT 1) AS rule,
      count(*) OVER ()::int AS total
    FROM used u ORDER BY ${order} DESC, domain LIMIT ${query.limit} OFFSET ${query.offset}`);
  return {
    rows: rows.map(({ kept_out: keptOut, total: _, last, ...row }) => ({ ...row, keptOut, last: new Date(last).toISOString() })),
    total: rows[0]?.total ?? 0,
  };
}

/** All that suggestions are computed from. Addresses only of mail that the reader may read. */
export async function tuningFacts(tx: Tx, isPublicProvider: (domain: string) => boolean): Promise<TuningFacts> {
  const { rows: domains } = await domainUse(tx, { show: 'all', days: TUNING_DAYS, text: '', limit: MOST_DOMAINS, offset: 0 });
  const unknown = await tx.execute<UnknownAddress & Record<string, unknown>>(sql`
    SELECT p.address, p.domain, mode() WITHIN GROUP (ORDER BY p.name) AS name, count(DISTINCT p.email_id)::int AS emails
    FROM participants p JOIN emails e ON e.id = p.email_id
    WHERE e.sent_at > now() - make_interval(days => ${TUNING_DAYS}) AND e.mail_class = 'person' AND p.role IN ('from', 'to', 'cc') AND p.name <> ''
      AND NOT EXISTS (SELECT FROM person_addresses a WHERE a.address = ${untagged(sql`p.address`)}) AND p.domain = ANY(e.external_domains)
    GROUP BY 1, 2 ORDER BY 4 DESC LIMIT 2000`);
  const byHand = await tx.execute<HandFiling & Record<string, unknown>>(sql`
    SELECT g.domain, g.kind, g.record_id AS "recordId", coalesce(a.name, c.name, l.name, d.name) AS "recordName" FROM (
      (SELECT e.external_domains[1] AS domain, f.kind, f.record_id FROM filings f JOIN emails e ON e.id = f.email_id
      WHERE f.rule IN (${RULES.filingAddress}, ${RULES.filingFolder}) AND cardinality(e.external_domains) = 1 ORDER BY e.decided_at DESC LIMIT ${LAST_FILINGS})
      UNION ALL (SELECT e.external_domains[1], p.kind, p.record_id FROM pins p JOIN emails e ON e.id = p.email_id
        WHERE p.does = 'file' AND p.released_at IS NULL AND cardinality(e.external_domains) = 1 ORDER BY p.id DESC LIMIT ${LAST_FILINGS})) g
    LEFT JOIN accounts a ON g.kind = 'account' AND a.id = g.record_id LEFT JOIN contacts c ON g.kind = 'contact' AND c.id = g.record_id
    LEFT JOIN leads l ON g.kind = 'lead' AND l.id = g.record_id LEFT JOIN deals d ON g.kind = 'deal' AND d.id = g.record_id
    WHERE coalesce(a.name, c.name, l.name, d.name) IS NOT NULL`);
  const takenOff = await tx.execute<HandRemoval & Record<string, unknown>>(sql`
    SELECT e.external_domains[1] AS domain, p.kind, count(DISTINCT p.email_id)::int AS emails FROM pins p JOIN emails e ON e.id = p.email_id
    WHERE p.does = 'takeOff' AND p.released_at IS NULL AND cardinality(e.external_domains) = 1 GROUP BY 1, 2`);
  const accounts = await tx.execute<{ id: number; name: string; domains: string[] }>(
    sql`SELECT a.id, a.name, coalesce(array_agg(d.domain) FILTER (WHERE d.domain IS NOT NULL), '{}') AS domains FROM accounts a LEFT JOIN account_domains d ON d.account_id = a.id GROUP BY a.id`,
  );
  const people = await tx.execute<{ kind: 'contact' | 'lead'; id: number; name: string; addresses: string[] }>(
    sql`SELECT p.kind, p.person_id AS id, coalesce(c.name, l.name) AS name, array_agg(p.address) AS addresses FROM person_addresses p
      LEFT JOIN contacts c ON p.kind = 'contact' AND c.id = p.person_id LEFT JOIN leads l ON p.kind = 'lead' AND l.id = p.person_id GROUP BY 1, 2, 3`,
  );
  return {
    domains,
    unknown: unknown.rows,
    byHand: byHand.rows,
    takenOff: takenOff.rows,
    accounts: accounts.rows,
    people: people.rows,
    isPublicProvider,
  };
}
