import { z } from 'zod';
import { json, manyRowsOf } from '../../base/db/rows';
import type { AccountRecord, CompiledRulebook, DealRecord, DecisionFacts, PersonRecord, RecordKind, Records } from '@fulvet/core';
import {
  CERTAIN_DEAL_RULES,
  codeKey,
  codeWords,
  companyKeyOfDomain,
  currentSubject,
  domainAndParents,
  isNearDomain,
  nearKeys,
  numbersOf,
  personName,
  registrableDomain,
} from '@fulvet/core';
import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';
import { codeKeyInSql, companyKeyInSql, leftHalfInSql, rightHalfInSql } from '../../base/db/schema/recordKeys';
import { BY_HAND } from '../../records/byHand';
import { loadUndeliverable } from '../undeliverable';
import { loadExchanges } from './loadExchanges';
import { dayBegins, dayEnds, loadOwnRecords, ownOf } from './loadOwnRecords';

/** Loads the records that the decision of these emails may ask for, and some more, by a few set-based queries. */
export async function loadRecords(
  tx: Tx,
  emails: readonly DecisionFacts[],
  rulebooks: readonly CompiledRulebook[],
  more: readonly { kind: RecordKind; id: number }[],
): Promise<Records> {
  const addresses = new Set<string>();
  const domains = new Set<string>();
  const codes = new Set<string>();
  const numbers = new Set<string>();
  const writtenNames = new Set<string>();
  for (const facts of emails) {
    for (const participant of facts.participants) {
      for (const rulebook of rulebooks) addresses.add(rulebook.personKey(participant.address));
      for (const domain of domainAndParents(participant.domain)) domains.add(domain);
      if (participant.name !== '') writtenNames.add(personName(participant.name, participant.address).name.toLowerCase());
    }
    const subject = currentSubject(facts.subject);
    for (const code of codeWords(subject)) codes.add(codeKey(code));
    for (const { code } of numbersOf(subject)) numbers.add(code);
  }
  const named = [...rulebooks.flatMap((rulebook) => rulebook.fixedRecords), ...more, ...(await peopleNamed(tx, [...writtenNames]))];
  const fixed = (kind: RecordKind): number[] => named.filter((item) => item.kind === kind).map((item) => item.id);
  const addressList = sql.param([...addresses]);
  // Each part goes by its own index: by kind and address, and by kind and person.
  const people = await loadPeople(
    tx,
    sql`(a.kind, a.address) IN (SELECT p.kind, p.address FROM person_addresses p WHERE p.kind = 'contact' AND p.address = ANY(${addressList}::text[])
      UNION SELECT p.kind, p.address FROM person_addresses p WHERE p.kind = 'lead' AND p.address = ANY(${addressList}::text[])
      UNION SELECT p.kind, p.address FROM person_addresses p WHERE p.kind = 'contact' AND p.person_id = ANY(${sql.param(fixed('contact'))}::bigint[])
      UNION SELECT p.kind, p.address FROM person_addresses p WHERE p.kind = 'lead' AND p.person_id = ANY(${sql.param(fixed('lead'))}::bigint[]))`,
  );
  const accountsByColleagues = await loadColleagues(
    tx,
    [...domains].filter((domain) => !rulebooks.every((rulebook) => rulebook.isPublicProvider(domain))),
  );
  const accountIds = [
    ...new Set([
      ...fixed('account'),
      ...people.flatMap(accountsOf),
      ...accountsByColleagues.map((accountsByColleague) => accountsByColleague.accountId),
      ...(await accountsNear(tx, domains)),
    ]),
  ];
  const domainList = sql.param([...domains]);
  // Unions of ids and not conditions joined by OR: each part goes by its own index.
  const accounts = await loadAccounts(
    tx,
    sql`a.id IN (SELECT unnest(${sql.param(accountIds)}::bigint[])
      UNION SELECT account_id FROM account_domains WHERE domain = ANY(${domainList}::text[])
      UNION SELECT n.id FROM accounts n WHERE ${companyKeyInSql('n.name')} = ANY(${sql.param([...domains].map(companyKeyOfDomain).filter(Boolean))}::text[]) AND NOT EXISTS (SELECT FROM account_domains o WHERE o.account_id = n.id))`,
  );
  const codeList = sql.param([...codes]);
  const deals = await loadDeals(
    tx,
    sql`d.id IN (SELECT unnest(${sql.param(fixed('deal'))}::bigint[])
      UNION SELECT id FROM deals WHERE ${codeKeyInSql(sql`code`)} = ANY(${codeList}::text[])
      UNION SELECT record_id FROM record_changes WHERE kind = 'deal' AND field = 'code' AND ${codeKeyInSql(sql`before`)} = ANY(${codeList}::text[])
      UNION SELECT id FROM deals WHERE account_id = ANY(${sql.param(accounts.map((account) => account.id))}::bigint[])
      UNION SELECT q.deal_id FROM deal_people q JOIN unnest(${sql.param(people.map((person) => person.kind))}::text[], ${sql.param(people.map((person) => person.id))}::bigint[]) AS w(kind, id) ON q.kind = w.kind AND q.person_id = w.id)`,
  );
  // A subject may name a deal by its company, though no one of it takes part.
  const known = new Set(accounts.map((account) => account.id));
  const others = [...new Set(deals.flatMap(({ accountId }) => (accountId === null || known.has(accountId) ? [] : [accountId])))];
  const accountsOfDeals = others.length === 0 ? [] : await loadAccounts(tx, sql`a.id = ANY(${sql.param(others)}::bigint[])`);
  const own = await loadOwnRecords(
    tx,
    sql`o.id IN (SELECT unnest(${sql.param(fixed('own'))}::bigint[])
      UNION SELECT id FROM own_records WHERE upper(code) = ANY(${sql.param([...numbers])}::text[])
      UNION SELECT record_id FROM own_record_addresses WHERE address = ANY(${addressList}::text[])
      UNION SELECT id FROM own_records WHERE account_id = ANY(${sql.param(accounts.map((account) => account.id))}::bigint[])
      UNION SELECT q.record_id FROM own_record_people q JOIN unnest(${sql.param(people.map((person) => person.kind))}::text[], ${sql.param(people.map((person) => person.id))}::bigint[]) AS w(kind, id) ON q.kind = w.kind AND q.person_id = w.id)`,
  );
  const { addresses: undeliverable, records } = await loadUndeliverable(tx, { addresses: [...addresses] }, rulebooks, { filings: false });
  return {
    people: people.filter((person) => !records[person.kind].includes(person.id)),
    accounts: [...accounts, ...accountsOfDeals].filter((account) => !records.account.includes(account.id)),
    deals,
    own,
    accountsByColleagues: accountsByColleagues.filter(({ accountId }) => !records.account.includes(accountId)),
    undeliverable,
    ...(await exchangesWith(tx, emails, rulebooks)),
  };
}

/** When there were emails with the participants, where a rule asks how many there are. */
async function exchangesWith(
  tx: Tx,
  emails: readonly DecisionFacts[],
  rulebooks: readonly CompiledRulebook[],
): Promise<Pick<Records, 'exchanges'>> {
  const asking = rulebooks.filter((rulebook) => rulebook.needsExchanges);
  if (asking.length === 0) return {};
  const exchanges = new Map<string, number[]>();
  for (const rulebook of asking) {
    const keys = new Set(emails.flatMap(({ participants }) => participants.map(({ address }) => rulebook.personKey(address))));
    for (const [key, times] of await loadExchanges(tx, rulebook, [...keys])) exchanges.set(key, times);
  }
  return { exchanges };
}

const personAddressRow = z.object({ domain: z.string(), account_id: z.number() });

/** The accounts of contacts by the domains of their addresses. */
async function loadColleagues(tx: Tx, domains: readonly string[]): Promise<{ domain: string; accountId: number }[]> {
  const rows = await manyRowsOf(
    tx,
    personAddressRow,
    sql`SELECT DISTINCT split_part(p.address, '@', -1) AS domain, c.account_id FROM person_addresses p JOIN contacts c ON c.id = p.person_id
      WHERE p.kind = 'contact' AND split_part(p.address, '@', -1) = ANY(${sql.param([...domains])}::text[]) AND c.account_id IS NOT NULL`,
  );
  return rows.map((row) => ({ domain: row.domain, accountId: row.account_id }));
}

const nearRow = z.object({ account_id: z.number(), domain: z.string() });

/** Accounts with a domain that differs by a letter from one of these. */
async function accountsNear(tx: Tx, domains: ReadonlySet<string>): Promise<number[]> {
  const asked = [...domains].filter((domain) => registrableDomain(domain) === domain);
  const keys = sql`${sql.param([...new Set(asked.flatMap(nearKeys))])}::text[]`;
  const d = sql`d.domain`;
  const rows = await manyRowsOf(
    tx,
    nearRow,
    sql`SELECT d.account_id, d.domain FROM account_domains d WHERE ${leftHalfInSql(d)} = ANY(${keys}) UNION SELECT d.account_id, d.domain FROM account_domains d WHERE ${rightHalfInSql(d)} = ANY(${keys})`,
  );
  return rows.filter((row) => asked.some((domain) => isNearDomain(domain, row.domain))).map((row) => row.account_id);
}

const contactRow = z.object({ kind: z.enum(['lead', 'contact']), id: z.number() });

/** Known people of these names, in small letters: someone unknown may be one of them at another address. */
async function peopleNamed(tx: Tx, names: readonly string[]): Promise<{ kind: 'contact' | 'lead'; id: number }[]> {
  if (names.length === 0) return [];
  const list = sql`ANY(${sql.param([...names])}::text[])`;
  const rows = await manyRowsOf(
    tx,
    contactRow,
    sql`SELECT 'contact' AS kind, id FROM contacts WHERE lower(name) = ${list} UNION ALL SELECT 'lead', id FROM leads WHERE lower(name) = ${list}`,
  );
  return rows;
}

function accountsOf(person: PersonRecord): number[] {
  return [
    ...(person.accountId === null ? [] : [person.accountId]),
    ...(person.formerAccounts ?? []).map((formerAccount) => formerAccount.accountId),
  ];
}

const contactAccountRow = z.object({
  kind: z.enum(['lead', 'contact']),
  id: z.number(),
  name: z.string(),
  account_id: z.number().nullable(),
  origin: z.number().nullable(),
  addresses: z.array(z.string()),
  own: json<Record<string, unknown>>().nullable(),
  former: json<{ accountId: number; until: number }[]>().nullable(),
});

export async function loadPeople(tx: Tx, where: SQL): Promise<PersonRecord[]> {
  const rows = await manyRowsOf(
    tx,
    contactAccountRow,
    sql`
    SELECT a.kind, a.person_id AS id, coalesce(c.name, l.name) AS name, c.account_id, nullif(coalesce(c.own, l.own), '{}'::jsonb) AS own, CASE WHEN coalesce(c.origin_rule, l.origin_rule) IS DISTINCT FROM ${BY_HAND} THEN coalesce(c.origin_email_id, l.origin_email_id) END AS origin, array_agg(a.address ORDER BY a.address) AS addresses,
      (SELECT json_agg(json_build_object('accountId', f.account_id, 'until', extract(epoch FROM f.until) * 1000) ORDER BY f.until) FROM contact_accounts f WHERE a.kind = 'contact' AND f.contact_id = a.person_id) AS former
    FROM person_addresses a LEFT JOIN contacts c ON a.kind = 'contact' AND c.id = a.person_id LEFT JOIN leads l ON a.kind = 'lead' AND l.id = a.person_id
    WHERE ${where} GROUP BY 1, 2, 3, 4, 5, 6 ORDER BY a.kind, a.person_id`,
  );
  return rows.map((row) => ({
    kind: row.kind,
    id: row.id,
    name: row.name,
    accountId: row.account_id,
    addresses: row.addresses,
    ...(row.former ? { formerAccounts: row.former } : {}),
    originEmailId: row.origin,
    ...ownOf(row.own),
  }));
}

const accountRow = z.object({
  id: z.number(),
  name: z.string(),
  type: z.string().nullable(),
  owner: z.string().nullable(),
  origin: z.number().nullable(),
  own: json<Record<string, unknown>>().nullable(),
  domains: z.array(z.string()),
});

export async function loadAccounts(tx: Tx, where: SQL): Promise<AccountRecord[]> {
  const rows = await manyRowsOf(
    tx,
    accountRow,
    sql`
    SELECT a.id, a.name, a.type, lower(u.email) AS owner, nullif(a.own, '{}'::jsonb) AS own, CASE WHEN a.origin_rule IS DISTINCT FROM ${BY_HAND} THEN a.origin_email_id END AS origin, coalesce(array_agg(d.domain ORDER BY d.domain) FILTER (WHERE d.domain IS NOT NULL), '{}') AS domains
    FROM accounts a LEFT JOIN users u ON u.id = a.owner_id LEFT JOIN account_domains d ON d.account_id = a.id
    WHERE ${where} GROUP BY a.id, u.email ORDER BY a.id`,
  );
  return rows.map(({ origin, type, own, ...row }) => ({ ...row, type: type ?? '', originEmailId: origin, ...ownOf(own) }));
}

/** What a deal's name or code was before, the oldest first. */
const former = (field: 'name' | 'code'): SQL =>
  sql`ARRAY(SELECT r.before FROM record_changes r WHERE r.kind = 'deal' AND r.record_id = d.id AND r.field = ${field} AND r.before <> '' ORDER BY r.id)`;

const filingRow = z.object({
  id: z.number(),
  name: z.string(),
  code: z.string().nullable(),
  account_id: z.number().nullable(),
  open: z.boolean(),
  closed_on: z.string().nullable(),
  opened_on: z.string().nullable(),
  stage: z.string().nullable(),
  amount: z.number().nullable(),
  owner: z.string().nullable(),
  people: z.array(z.string()),
  own: json<Record<string, unknown>>().nullable(),
  former_names: z.array(z.string()),
  former_codes: z.array(z.string()),
  activity: z.array(z.number()),
});

export async function loadDeals(tx: Tx, where: SQL): Promise<DealRecord[]> {
  const rows = await manyRowsOf(
    tx,
    filingRow,
    sql`
    SELECT d.id, d.name, d.code, d.account_id, d.open, d.closed_on::text, d.opened_on::text, d.stage, d.amount, nullif(d.own, '{}'::jsonb) AS own, lower(u.email) AS owner,
      ARRAY(SELECT (extract(epoch FROM e.sent_at) * 1000)::float8 FROM filings f JOIN emails e ON e.id = f.email_id WHERE f.kind = 'deal' AND f.record_id = d.id AND f.rule = ANY(${sql.param([...CERTAIN_DEAL_RULES])}::text[])) AS activity, ${former('name')} AS former_names, ${former('code')} AS former_codes, coalesce(array_agg(p.kind || ':' || p.person_id) FILTER (WHERE p.deal_id IS NOT NULL), '{}') AS people
    FROM deals d LEFT JOIN users u ON u.id = d.owner_id LEFT JOIN deal_people p ON p.deal_id = d.id
    WHERE ${where} GROUP BY d.id, u.email ORDER BY d.id`,
  );
  return rows.map((row) => ({
    id: row.id,
    name: row.name,
    code: row.code,
    ...(row.former_names.length > 0 ? { formerNames: row.former_names } : {}),
    ...(row.former_codes.length > 0 ? { formerCodes: row.former_codes } : {}),
    accountId: row.account_id,
    open: row.open,
    people: row.people,
    stage: row.stage ?? '',
    amount: row.amount,
    owner: row.owner,
    activity: row.activity,
    ...ownOf(row.own),
    openedAt: row.opened_on === null ? null : dayBegins(row.opened_on),
    closedAt: row.closed_on === null ? null : dayEnds(row.closed_on),
  }));
}
