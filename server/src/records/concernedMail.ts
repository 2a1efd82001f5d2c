import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import type { CompiledRulebook, RecordKind } from '@fulvet/core';
import { codeKey, companyKey, companyKeyOfDomain, domainAndParents, domainOf } from '@fulvet/core';
import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';
import type { Concerned } from '../base/concerned';
import type { Database } from '../base/db/database';
import { codeKeyInSql } from '../base/db/schema/recordKeys';
import { mayBePersonIn } from '../base/db/personKey';

/** Looking for more codes than this in each subject takes longer than deciding all that have a number. */
const MOST_CODES = 40;

/**
 * The condition on emails whose decision may rest on what changed: whole conversations with the people of these records, at the domains of
 * their accounts, or naming their codes. An account without a domain is known by its people's domains and by its name.
 */
export async function mailConcerning(database: Database, concerned: Concerned, rulebooks: readonly CompiledRulebook[]): Promise<SQL> {
  const found = await resolved(database, concerned);
  const isPeer = (domain: string): boolean => found.peers.has(domain) && !rulebooks.some((rulebook) => rulebook.isPublicProvider(domain));
  const byDomain =
    found.domains.size + found.peers.size + found.companies.size === 0
      ? []
      : (await seenDomains(database)).filter(
          (domain) =>
            [...domainAndParents(domain)].some((domainAndParent) => found.domains.has(domainAndParent) || isPeer(domainAndParent)) ||
            found.companies.has(companyKeyOfDomain(domain)),
        );
  const domains = sql.param(byDomain);
  const addresses = sql.param([...found.addresses]);
  const theirs = sql.param([...found.addresses].map((address) => domainOf(address)));
  // What is kept out has no addresses any more, and is found by domain.
  return sql`conversation_id IN (SELECT conversation_id FROM emails WHERE external_domains && ${domains}::text[]
    UNION ALL SELECT e.conversation_id FROM participants p JOIN emails e ON e.id = p.email_id WHERE ${mayBePersonIn(sql`p.address`, sql`${addresses}::text[]`)}
    UNION ALL SELECT conversation_id FROM emails WHERE outcome = 'kept out' AND external_domains && ${theirs}::text[]
    UNION ALL SELECT e.conversation_id FROM emails e JOIN dockets d ON d.email_id = e.id WHERE e.outcome = 'waiting' AND ${asksAbout(concerned)}
    UNION ALL SELECT e.conversation_id FROM email_contents c JOIN emails e ON e.id = c.email_id WHERE ${namesOneOf([...found.codes])})`;
}

/** That an email asks whether someone is one of these people: what they are called may have changed. */
function asksAbout({ records, renamed = records }: Concerned): SQL {
  if (!renamed || (renamed.kind !== 'contact' && renamed.kind !== 'lead')) return sql`false`;
  return sql`EXISTS (SELECT FROM jsonb_array_elements(d.questions) q, jsonb_array_elements(q -> 'candidates') one
    WHERE q ->> 'about' = 'person' AND q ->> 'kind' = ${renamed.kind} AND (one ->> 'id')::bigint = ANY(${sql.param(renamed.ids)}::bigint[]))`;
}

function namesOneOf(codes: readonly string[]): SQL {
  if (codes.length === 0) return sql`false`;
  const keys = sql.param([...codes]);
  const inSubject =
    codes.length > MOST_CODES
      ? sql`c.subject ~ '[0-9]'`
      : sql`EXISTS (SELECT FROM unnest(${keys}::text[]) k WHERE strpos(translate(${codeKeyInSql(sql`c.subject`)}, '‐‑‒–—―−', ''), k) > 0)`;
  return sql`${inSubject} OR EXISTS (SELECT FROM unnest(c.codes) w, unnest(${keys}::text[]) k WHERE strpos(${codeKeyInSql(sql`w`)}, k) > 0)`;
}

const emailRow = z.object({ domain: z.string() });

/** The domains met in mail. */
async function seenDomains(database: Database): Promise<string[]> {
  const rows = await rowsOf(
    database.worker,
    emailRow,
    sql`
    SELECT domain FROM seen_domains
    UNION SELECT DISTINCT p.domain FROM participants p JOIN emails e ON e.id = p.email_id WHERE e.decided_at IS NULL`,
  );
  return rows.map((row) => row.domain);
}

interface Resolved {
  addresses: Set<string>;
  domains: Set<string>;
  /** Domains of people at accounts without a domain. */
  peers: Set<string>;
  /** Names of accounts without a domain, as they are compared with domains. */
  companies: Set<string>;
  codes: Set<string>;
}

const valueRow = z.object({ value: z.string() });

async function resolved(database: Database, { addresses, domains, codes, companies = [], records }: Concerned): Promise<Resolved> {
  const found: Resolved = {
    addresses: new Set(addresses),
    domains: new Set(domains),
    peers: new Set(),
    companies: new Set(companies.map(companyKey).filter(Boolean)),
    codes: new Set((codes ?? []).map(codeKey).filter(Boolean)),
  };
  const list = async (query: SQL): Promise<string[]> => (await rowsOf(database.worker, valueRow, query)).map((row) => row.value);
  if (companies.length > 0)
    for (const value of await list(
      sql`SELECT d.domain AS value FROM accounts a JOIN account_domains d ON d.account_id = a.id WHERE lower(a.name) = ANY(${sql.param(companies.map((name) => name.toLowerCase()))}::text[])`,
    ))
      found.domains.add(value);
  // Someone who is named by one address writes from the others, too.
  if (addresses.length > 0)
    for (const value of await list(
      sql`SELECT o.address AS value FROM person_addresses a JOIN person_addresses o ON o.kind = a.kind AND o.person_id = a.person_id WHERE a.address = ANY(${sql.param(addresses)}::text[])`,
    ))
      found.addresses.add(value);
  if (!records || records.ids.length === 0) return found;
  const { kind } = records;
  const ids = sql.param(records.ids);
  const people: Record<RecordKind, SQL> = {
    contact: sql`SELECT 'contact' AS kind, id FROM contacts WHERE id = ANY(${ids}::bigint[])`,
    lead: sql`SELECT 'lead' AS kind, id FROM leads WHERE id = ANY(${ids}::bigint[])`,
    account: sql`SELECT 'contact' AS kind, id FROM contacts WHERE account_id = ANY(${ids}::bigint[])`,
    deal: sql`SELECT kind, person_id AS id FROM deal_people WHERE deal_id = ANY(${ids}::bigint[])`,
    own: sql`SELECT kind, person_id AS id FROM own_record_people WHERE record_id = ANY(${ids}::bigint[])`,
  };
  const accounts: Record<RecordKind, SQL> = {
    contact: sql`SELECT account_id AS id FROM contacts WHERE id = ANY(${ids}::bigint[])`,
    lead: sql`SELECT NULL::bigint AS id WHERE false`,
    account: sql`SELECT unnest(${ids}::bigint[]) AS id`,
    deal: sql`SELECT account_id AS id FROM deals WHERE id = ANY(${ids}::bigint[])`,
    own: sql`SELECT account_id AS id FROM own_records WHERE id = ANY(${ids}::bigint[])`,
  };
  const addressesOf = (of: SQL): SQL =>
    sql`SELECT a.address AS value FROM (${of}) q JOIN person_addresses a ON a.kind = q.kind AND a.person_id = q.id`;
  for (const value of await list(addressesOf(people[kind]))) found.addresses.add(value);
  // With whom an account's people write tells whose a domain is, where an account has none: of accounts, perhaps only until now.
  const tellsDomains =
    kind === 'account' ||
    (kind === 'contact' &&
      (
        await list(
          sql`SELECT a.name AS value FROM accounts a WHERE NOT EXISTS (SELECT FROM account_domains d WHERE d.account_id = a.id) LIMIT 1`,
        )
      ).length > 0);
  if (tellsDomains) for (const address of found.addresses) found.peers.add(domainOf(address));
  // That a contact is with an account tells nothing about the account's other mail, where it has a domain of its own.
  if (kind !== 'contact')
    for (const value of await list(sql`SELECT d.domain AS value FROM account_domains d JOIN (${accounts[kind]}) q ON q.id = d.account_id`))
      found.domains.add(value);
  const domainless = sql`SELECT a.id, a.name FROM accounts a JOIN (${accounts[kind]}) q ON q.id = a.id WHERE NOT EXISTS (SELECT FROM account_domains d WHERE d.account_id = a.id)`;
  for (const value of await list(sql`SELECT name AS value FROM (${domainless}) n`)) found.companies.add(companyKey(value));
  const theirPeople = sql`SELECT 'contact' AS kind, c.id FROM contacts c JOIN (${domainless}) n ON n.id = c.account_id`;
  for (const value of await list(addressesOf(theirPeople))) found.peers.add(domainOf(value));
  if (kind === 'deal' && codes)
    for (const value of await list(sql`SELECT code AS value FROM deals WHERE id = ANY(${ids}::bigint[]) AND code <> ''`))
      found.codes.add(codeKey(value));
  if (kind === 'own') {
    for (const value of await list(sql`SELECT address AS value FROM own_record_addresses WHERE record_id = ANY(${ids}::bigint[])`))
      found.addresses.add(value);
    for (const value of await list(sql`SELECT code AS value FROM own_records WHERE id = ANY(${ids}::bigint[])`))
      found.codes.add(codeKey(value));
  }
  found.companies.delete('');
  return found;
}
