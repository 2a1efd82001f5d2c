import { z } from 'zod';
import { manyRowsOf } from '../base/db/rows';
import { recordKind } from '@fulvet/contract';
import type { CompiledRulebook, TuningFacts } from '@fulvet/core';
import { ANNOUNCING_QUERY, announcedDomains, registrableDomain, RULES } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { personKeyInSql } from '../base/db/personKey';
import { domainUse } from './domainUse';

export const TUNING_DAYS = 90;

const MOST_DOMAINS = 5000;

const LAST_FILINGS = 200;

const participantRow = z.object({ address: z.string(), domain: z.string(), name: z.string(), emails: z.number() });

const filingRow = z.object({ domain: z.string(), kind: recordKind, recordId: z.number(), recordName: z.string() });

const pinRow = z.object({ domain: z.string(), kind: recordKind.nullable(), emails: z.number() });

const accountRow = z.object({ id: z.number(), name: z.string(), domains: z.array(z.string()) });

const personAddressRow = z.object({
  kind: z.enum(['lead', 'contact']),
  id: z.number(),
  name: z.string(),
  accountId: z.number().nullable(),
  addresses: z.array(z.string()),
});

const answeredRow = z.object({ address: z.string(), emails: z.number(), authors: z.number() });

const announcingRow = z.object({ domain: z.string(), body: z.string() });

const MOST_ANNOUNCING = 300;

/** All that suggestions are computed from. Addresses only of mail that the reader may read. */
export async function tuningFacts(
  tx: Tx,
  rulebook: Pick<CompiledRulebook, 'isPublicProvider' | 'isFormAddress' | 'tagsTellApart'>,
): Promise<TuningFacts> {
  const { rows: domains } = await domainUse(tx, { show: 'all', days: TUNING_DAYS, text: '', limit: MOST_DOMAINS, offset: 0 });
  const unknown = await manyRowsOf(
    tx,
    participantRow,
    sql`
    SELECT p.address, p.domain, mode() WITHIN GROUP (ORDER BY p.name) AS name, count(DISTINCT p.email_id)::int AS emails
    FROM participants p JOIN emails e ON e.id = p.email_id
    WHERE e.sent_at > now() - make_interval(days => ${TUNING_DAYS}) AND e.mail_class = 'person' AND p.role IN ('from', 'to', 'cc') AND p.name <> ''
      AND NOT EXISTS (SELECT FROM person_addresses a WHERE a.address = ${personKeyInSql(rulebook, sql`p.address`)}) AND p.domain = ANY(e.external_domains)
    GROUP BY 1, 2 ORDER BY 4 DESC LIMIT 2000`,
  );
  const byHand = await manyRowsOf(
    tx,
    filingRow,
    sql`
    SELECT g.domain, g.kind, g.record_id AS "recordId", r.name AS "recordName" FROM (
      (SELECT e.external_domains[1] AS domain, f.kind, f.record_id FROM filings f JOIN emails e ON e.id = f.email_id
      WHERE f.rule IN (${RULES.filingAddress}, ${RULES.filingFolder}) AND cardinality(e.external_domains) = 1 ORDER BY e.decided_at DESC LIMIT ${LAST_FILINGS})
      UNION ALL (SELECT e.external_domains[1], p.kind, p.record_id FROM pins p JOIN emails e ON e.id = p.email_id
        WHERE p.does IN ('file', 'principal') AND p.released_at IS NULL AND cardinality(e.external_domains) = 1 ORDER BY p.id DESC LIMIT ${LAST_FILINGS})) g
    JOIN records r ON r.kind = g.kind AND r.id = g.record_id`,
  );
  const takenOff = await manyRowsOf(
    tx,
    pinRow,
    sql`
    SELECT e.external_domains[1] AS domain, p.kind, count(DISTINCT p.email_id)::int AS emails FROM pins p JOIN emails e ON e.id = p.email_id
    WHERE p.does = 'takeOff' AND p.released_at IS NULL AND cardinality(e.external_domains) = 1 GROUP BY 1, 2`,
  );
  const accounts = await manyRowsOf(
    tx,
    accountRow,
    sql`SELECT a.id, a.name, coalesce(array_agg(d.domain) FILTER (WHERE d.domain IS NOT NULL), '{}') AS domains FROM accounts a LEFT JOIN account_domains d ON d.account_id = a.id GROUP BY a.id`,
  );
  const people = await manyRowsOf(
    tx,
    personAddressRow,
    sql`SELECT p.kind, p.person_id AS id, coalesce(c.name, l.name) AS name, c.account_id AS "accountId", array_agg(p.address) AS addresses FROM person_addresses p
      LEFT JOIN contacts c ON p.kind = 'contact' AND c.id = p.person_id LEFT JOIN leads l ON p.kind = 'lead' AND l.id = p.person_id GROUP BY 1, 2, 3, 4`,
  );
  const answeredElsewhere = await manyRowsOf(
    tx,
    answeredRow,
    sql`SELECT f.address, count(DISTINCT e.id)::int AS emails, count(DISTINCT r.address)::int AS authors FROM emails e
      JOIN participants f ON f.email_id = e.id AND f.role = 'from' JOIN participants r ON r.email_id = e.id AND r.role = 'replyTo' AND r.domain <> f.domain
      WHERE e.sent_at > now() - make_interval(days => ${TUNING_DAYS}) GROUP BY 1 HAVING count(DISTINCT r.address) > 1 ORDER BY 2 DESC LIMIT 200`,
  );
  return {
    domains,
    unknown,
    byHand,
    takenOff,
    accounts,
    people,
    answeredElsewhere: answeredElsewhere.filter(({ address }) => !rulebook.isFormAddress(address)),
    announced: await announced(tx, accounts),
    isPublicProvider: (domain) => rulebook.isPublicProvider(domain),
  };
}

/** What people of accounts announce: the newest of their emails that may say so, with the domains that they name. */
async function announced(tx: Tx, accounts: TuningFacts['accounts']): Promise<TuningFacts['announced']> {
  const owners = new Map<string, number | null>();
  for (const { id, domains } of accounts) for (const domain of domains) owners.set(domain, owners.has(domain) ? null : id);
  const rows = await manyRowsOf(
    tx,
    announcingRow,
    sql`SELECT p.domain, c.body FROM emails e JOIN email_contents c ON c.email_id = e.id JOIN participants p ON p.email_id = e.id AND p.role = 'from'
      WHERE e.sent_at > now() - make_interval(days => ${TUNING_DAYS}) AND e.direction = 'received' AND e.mail_class = 'person' AND e.sender_check <> 'failed'
        AND c.search @@ to_tsquery('simple', ${ANNOUNCING_QUERY}) ORDER BY e.sent_at DESC LIMIT ${MOST_ANNOUNCING}`,
  );
  const emails = new Map<string, number>();
  for (const { domain, body } of rows) {
    const account = owners.get(domain) ?? owners.get(registrableDomain(domain) ?? '') ?? null;
    if (account === null) continue;
    for (const named of announcedDomains(body, domain)) {
      const key = `${account} ${named}`;
      emails.set(key, (emails.get(key) ?? 0) + 1);
    }
  }
  return [...emails].map(([key, count]) => {
    const [account = '', domain = ''] = key.split(' ');
    return { domain, accountId: Number(account), emails: count };
  });
}
