import { z } from 'zod';
import { json, moment, rowsOf } from '../base/db/rows';
import { personKeyInSql } from '../base/db/personKey';
import type { UnknownPeopleGroup, User } from '@fulvet/contract';
import { companyNameFromDomain, isNoReplyLocal, personName, readSignature, registrableDomain } from '@fulvet/core';
import type { CompiledRulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { whoseDomain } from './whoseDomain';
import type { DomainOwner } from './whoseDomain';

const unknownPersonRow = z.object({
  address: z.string(),
  domain: z.string(),
  name: z.string(),
  sent: z.number(),
  received: z.number(),
  last_at: moment,
  last_id: z.number(),
  colleagues: json<{ name: string; emails: number }[]>().nullable(),
  text: z.string().nullable(),
  accounts: json<DomainOwner[]>(),
});

const addressRow = z.object({ address: z.string() });

const MOST_PEOPLE = 2000;
const MOST_COLLEAGUES = 4;

/**
 * The external people with whom mail went both ways and who are in no record, by company, ranked by exchange: what goes one way only counts
 * for nothing. Of mail that the reader may read; no one who writes automatic, no functions.
 */
export async function unknownPeople(
  tx: Tx,
  user: User,
  { days, whose, limit }: { days: number; whose: 'mine' | 'all'; limit: number },
  rulebook: CompiledRulebook,
): Promise<{ groups: UnknownPeopleGroup[]; people: number }> {
  const addresses = await unknownAddresses(tx, rulebook);
  const rows = await rowsOf(
    tx,
    unknownPersonRow,
    sql`
    WITH x AS (SELECT e.id, e.sent_at, e.direction, e.owner_ids FROM emails e
        WHERE e.id IN (SELECT m.email_id FROM participants m WHERE m.address = ANY(${sql.param(addresses)}::text[])) AND e.mail_class = 'person' AND e.outcome IN ('filed', 'waiting', 'unfiled') AND e.direction IN ('sent', 'received')
        AND e.sent_at > now() - make_interval(days => ${days}) AND ${whose === 'mine' ? sql`${user.id} = ANY(e.owner_ids)` : sql`true`}),
      p AS (SELECT p.address, p.domain, p.name, p.role, x.id, x.sent_at, x.direction, x.owner_ids FROM x JOIN participants p ON p.email_id = x.id
        WHERE p.address = ANY(${sql.param(addresses)}::text[]) AND ((x.direction = 'received' AND p.role = 'from') OR (x.direction = 'sent' AND p.role IN ('to', 'cc')))),
      s AS (SELECT address, domain, (array_agg(name ORDER BY name = '', sent_at DESC))[1] AS name, count(DISTINCT id) FILTER (WHERE direction = 'sent')::int AS sent, count(DISTINCT id) FILTER (WHERE direction = 'received')::int AS received,
        max(sent_at) AS last_at, (array_agg(id ORDER BY sent_at DESC))[1] AS last_id, (array_agg(id ORDER BY sent_at DESC) FILTER (WHERE role = 'from'))[1] AS wrote FROM p GROUP BY 1, 2),
      best AS (SELECT * FROM s WHERE sent > 0 AND received > 0 ORDER BY least(sent, received) DESC, sent + received DESC, address LIMIT ${MOST_PEOPLE}),
      k AS (SELECT address, json_agg(json_build_object('name', name, 'emails', emails) ORDER BY emails DESC) AS colleagues FROM (
          SELECT q.address, u.name, count(DISTINCT q.id)::int AS emails, row_number() OVER (PARTITION BY q.address ORDER BY count(DISTINCT q.id) DESC, u.id) AS place
          FROM best b JOIN p q ON q.address = b.address CROSS JOIN LATERAL unnest(q.owner_ids) o(id) JOIN users u ON u.id = o.id GROUP BY q.address, u.id, u.name) those
        WHERE place <= ${MOST_COLLEAGUES} GROUP BY address)
    SELECT b.*, c.body AS text, ${whoseDomain(sql`b.domain`)} AS accounts, k.colleagues
    FROM best b LEFT JOIN k ON k.address = b.address LEFT JOIN email_contents c ON c.email_id = b.wrote
    ORDER BY least(b.sent, b.received) DESC, b.sent + b.received DESC, b.address`,
  );
  const groups = new Map<string, UnknownPeopleGroup>();
  for (const row of rows) {
    const isPublic = rulebook.isPublicProvider(row.domain);
    const domain = isPublic ? '' : (registrableDomain(row.domain) ?? row.domain);
    const group = groups.get(domain) ?? {
      domain,
      company: isPublic ? '' : (companyNameFromDomain(row.domain) ?? domain),
      accounts: [],
      sent: 0,
      received: 0,
      people: [],
    };
    groups.set(domain, group);
    // Parts of a company may have accounts of their own, by their own sub-domains.
    if (!isPublic) group.accounts.push(...row.accounts.filter(({ id }) => !group.accounts.some((known) => known.id === id)));
    const { name, confidence } = personName(row.name, row.address);
    const { title, phones } = readSignature(row.text ?? '', name, row.domain);
    group.sent += row.sent;
    group.received += row.received;
    group.people.push({
      address: row.address,
      name,
      nameConfidence: confidence,
      domain: row.domain,
      sent: row.sent,
      received: row.received,
      lastAt: row.last_at,
      colleagues: row.colleagues ?? [],
      title,
      phones,
      lastEmailId: row.last_id,
    });
  }
  const rank = (group: UnknownPeopleGroup): number => Math.max(...group.people.map((person) => Math.min(person.sent, person.received)));
  const ranked = [...groups.values()].sort(
    (first, second) => rank(second) - rank(first) || second.sent + second.received - (first.sent + first.received),
  );
  return { groups: ranked.slice(0, limit), people: rows.length };
}

/** The addresses of external people with whom mail went both ways and who are in no record, with or without a +tag. */
async function unknownAddresses(tx: Tx, rulebook: CompiledRulebook): Promise<string[]> {
  const rows = await rowsOf(
    tx,
    addressRow,
    sql`SELECT c.address FROM fulvet_unknown_correspondents() c
      WHERE NOT EXISTS (SELECT FROM person_addresses a WHERE a.address = ${personKeyInSql(rulebook, sql`c.address`)})`,
  );
  return rows
    .map(({ address }) => address)
    .filter((address) => {
      const at = address.lastIndexOf('@');
      const domain = address.slice(at + 1);
      return (
        !rulebook.isOurs(address, domain) &&
        !rulebook.isRoleAddress(address) &&
        !isNoReplyLocal(address.slice(0, at)) &&
        rulebook.entryFor(address, domain) === undefined
      );
    });
}
