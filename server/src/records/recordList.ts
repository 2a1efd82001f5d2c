import type { RecordKind, RecordRow } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { Tx } from '../db/database';

export interface RecordQuery {
  text?: string | undefined;
  sort: 'name' | 'lastEmail' | 'emails' | 'amount';
  descending: 'yes' | 'no';
  origin?: 'fulvet' | 'people' | undefined;
  open?: 'yes' | 'no' | undefined;
  offset: number;
  limit: number;
}

/** Each kind's rows in one shape, so that lists, search and sorting are written once. */
const SOURCES: Record<RecordKind, SQL> = {
  contact: sql`SELECT c.id, c.name, c.title AS detail, ARRAY(SELECT address FROM person_addresses x WHERE x.kind = 'contact' AND x.person_id = c.id ORDER BY position, address) AS addresses, c.account_id, c.owner_id, c.origin_email_id, NULL::text AS stage, NULL::boolean AS open, NULL::numeric AS amount, NULL::text AS currency, NULL::text AS code FROM contacts c`,
  lead: sql`SELECT l.id, l.name, concat_ws(' · ', nullif(l.company, ''), nullif(l.status, '')) AS detail, ARRAY(SELECT address FROM person_addresses x WHERE x.kind = 'lead' AND x.person_id = l.id ORDER BY position, address) AS addresses, NULL::bigint AS account_id, l.owner_id, l.origin_email_id, NULL::text AS stage, NULL::boolean AS open, NULL::numeric AS amount, NULL::text AS currency, NULL::text AS code FROM leads l`,
  account: sql`SELECT a.id, a.name, a.type AS detail, ARRAY(SELECT domain FROM account_domains x WHERE x.account_id = a.id ORDER BY domain) AS addresses, a.parent_id AS account_id, a.owner_id, a.origin_email_id, NULL::text AS stage, NULL::boolean AS open, NULL::numeric AS amount, NULL::text AS currency, NULL::text AS code FROM accounts a`,
  deal: sql`SELECT d.id, d.name, d.stage AS detail, ARRAY[]::text[] AS addresses, d.account_id, d.owner_id, NULL::bigint AS origin_email_id, d.stage, d.open, d.amount, d.currency, d.code FROM deals d`,
};

const ORDERS: Record<RecordQuery['sort'], SQL> = {
  name: sql`lower(r.name)`,
  lastEmail: sql`f.last_at`,
  emails: sql`coalesce(f.emails, 0)`,
  amount: sql`r.amount`,
};

/** One page of a kind's records with the emails that the reader may know of. */
export async function recordList(tx: Tx, kind: RecordKind, query: RecordQuery): Promise<{ records: RecordRow[]; total: number }> {
  const conditions = [sql`true`];
  if (query.text) {
    const pattern = `%${query.text.replace(/[%_\\]/g, '\\$&')}%`;
    conditions.push(
      sql`(r.name ILIKE ${pattern} OR r.detail ILIKE ${pattern} OR r.code ILIKE ${pattern} OR array_to_string(r.addresses, ' ') ILIKE ${pattern})`,
    );
  }
  if (query.origin) conditions.push(query.origin === 'fulvet' ? sql`r.origin_email_id IS NOT NULL` : sql`r.origin_email_id IS NULL`);
  if (query.open) conditions.push(sql`r.open = ${query.open === 'yes'}`);
  const direction = query.descending === 'yes' ? sql`DESC NULLS LAST` : sql`ASC NULLS LAST`;
  const { rows } = await tx.execute<RawRecord & { total: number }>(sql`
    WITH r AS (${SOURCES[kind]}), f AS (SELECT g.record_id, count(*)::int AS emails, max(e.sent_at) AS last_at FROM filings g JOIN emails e ON e.id = g.email_id WHERE g.kind = ${kind} GROUP BY g.record_id)
    SELECT r.*, a.name AS account_name, u.name AS owner, coalesce(f.emails, 0) AS emails, f.last_at, count(*) OVER ()::int AS total
    FROM r LEFT JOIN f ON f.record_id = r.id LEFT JOIN accounts a ON a.id = r.account_id LEFT JOIN users u ON u.id = r.owner_id
    WHERE ${sql.join(conditions, sql` AND `)} ORDER BY ${ORDERS[query.sort]} ${direction}, lower(r.name), r.id LIMIT ${query.limit} OFFSET ${query.offset}`);
  return { records: rows.map((row) => recordRow(kind, row)), total: rows[0]?.total ?? 0 };
}

interface RawRecord {
  [column: string]: unknown;
  id: number;
  name: string;
  detail: string;
  addresses: string[];
  account_id: number | null;
  account_name: string | null;
  owner: string | null;
  emails: number;
  last_at: string | null;
  origin_email_id: number | null;
  stage: string | null;
  open: boolean | null;
  amount: number | null;
  currency: string | null;
  code: string | null;
}

function recordRow(kind: RecordKind, row: RawRecord): RecordRow {
  return {
    id: row.id,
    kind,
    name: row.name,
    detail: row.detail,
    addresses: row.addresses,
    account: row.account_id === null ? null : { id: row.account_id, name: row.account_name ?? '' },
    owner: row.owner,
    emails: row.emails,
    lastEmailAt: row.last_at === null ? null : new Date(row.last_at).toISOString(),
    createdByFulvet: row.origin_email_id !== null,
    stage: row.stage,
    open: row.open,
    amount: row.amount,
    currency: row.currency,
    code: row.code,
  };
}

/** Records of all kinds by name, address, domain or code; the best of each kind first. */
export async function searchRecords(tx: Tx, text: string): Promise<{ kind: RecordKind; id: number; name: string; detail: string }[]> {
  const query: RecordQuery = { text, sort: 'emails', descending: 'yes', offset: 0, limit: 8 };
  const found: { kind: RecordKind; id: number; name: string; detail: string }[] = [];
  for (const kind of ['account', 'contact', 'deal', 'lead'] as const) {
    const { records } = await recordList(tx, kind, query);
    found.push(...records.map((row) => ({ kind, id: row.id, name: row.name, detail: row.addresses[0] ?? row.code ?? row.detail })));
  }
  return found;
}
