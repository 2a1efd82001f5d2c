import { json, rowsOf } from '../base/db/rows';
import { containing } from '../base/db/like';
import type { RecordKind, recordQuery, RecordRow } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { z } from 'zod';
import type { Tx } from '../base/db/database';
import { ownTexts } from './ownFields';
import { lastLogged, lastLoggedOf } from './activities/queries';
import { figuresQuery, mailFigures, NO_FIGURES } from './mailFigures';

export type RecordQuery = z.output<typeof recordQuery>;

/** Each kind's rows in one shape, so that lists, search and sorting are written once. */
const SOURCES: Record<RecordKind, SQL> = {
  contact: sql`SELECT c.id, c.name, c.title AS detail, ARRAY(SELECT address FROM person_addresses x WHERE x.kind = 'contact' AND x.person_id = c.id ORDER BY position, address) AS addresses, c.account_id, c.owner_id, c.origin_email_id, c.own, c.created_at, NULL::text AS stage, NULL::boolean AS open, NULL::numeric AS amount, NULL::text AS currency, NULL::text AS code, NULL::text AS of FROM contacts c`,
  lead: sql`SELECT l.id, l.name, concat_ws(' · ', nullif(l.company, ''), nullif(l.status, '')) AS detail, ARRAY(SELECT address FROM person_addresses x WHERE x.kind = 'lead' AND x.person_id = l.id ORDER BY position, address) AS addresses, NULL::bigint AS account_id, l.owner_id, l.origin_email_id, l.own, l.created_at, l.status AS stage, NULL::boolean AS open, NULL::numeric AS amount, NULL::text AS currency, NULL::text AS code, NULL::text AS of FROM leads l`,
  account: sql`SELECT a.id, a.name, a.type AS detail, ARRAY(SELECT domain FROM account_domains x WHERE x.account_id = a.id ORDER BY domain) AS addresses, a.parent_id AS account_id, a.owner_id, a.origin_email_id, a.own, a.created_at, a.type AS stage, NULL::boolean AS open, NULL::numeric AS amount, NULL::text AS currency, NULL::text AS code, NULL::text AS of FROM accounts a`,
  deal: sql`SELECT d.id, d.name, d.stage AS detail, ARRAY[]::text[] AS addresses, d.account_id, d.owner_id, NULL::bigint AS origin_email_id, d.own, d.created_at, d.stage, d.open, d.amount, d.currency, d.code, NULL::text AS of FROM deals d`,
  own: sql`SELECT o.id, o.name, o.code AS detail, ARRAY(SELECT x.address FROM own_record_addresses x WHERE x.record_id = o.id ORDER BY x.address) AS addresses, o.account_id, o.owner_id, o.origin_email_id, o.own, o.created_at, o.state AS stage, o.open, NULL::numeric AS amount, NULL::text AS currency, o.code, k.key AS of FROM own_records o JOIN own_kinds k ON k.id = o.kind_id`,
};

const ORDERS: Record<string, SQL> = {
  name: sql`lower(r.name)`,
  amount: sql`r.amount`,
  stage: sql`(SELECT s.position FROM deal_stages s WHERE lower(s.name) = lower(r.stage)), lower(r.stage)`,
  owner: sql`lower(u.name)`,
  account: sql`lower(a.name)`,
  created: sql`r.created_at`,
  detail: sql`nullif(lower(r.detail), '')`,
  addresses: sql`r.addresses[1]`,
};
const MAIL_ORDERS: Record<string, SQL> = {
  lastEmail: sql`f.last_at`,
  emails: sql`coalesce(f.emails, 0)`,
  in: sql`coalesce(f.emails_in, 0)`,
  out: sql`coalesce(f.emails_out, 0)`,
  unanswered: sql`coalesce(f.unanswered, 0)`,
  quiet: sql`now() - greatest(f.last_at, f.met_at)`,
  by: sql`(SELECT lower(coalesce(nullif(p.name, ''), p.address)) FROM participants p WHERE p.email_id = f.last_id AND p.role = 'from' LIMIT 1)`,
};

const sourceRow = z.object({
  id: z.number(),
  name: z.string(),
  detail: z.string(),
  addresses: z.array(z.string()),
  account_id: z.number().nullable(),
  owner_id: z.number().nullable(),
  origin_email_id: z.number().nullable(),
  own: json<Record<string, unknown>>(),
  stage: z.string().nullable(),
  open: z.boolean().nullable(),
  amount: z.number().nullable(),
  currency: z.string().nullable(),
  code: z.string().nullable(),
  of: z.string().nullable(),
});

const listedRow = sourceRow.extend({ account_name: z.string().nullable(), owner: z.string().nullable(), total: z.number() });
type ListedRow = z.infer<typeof listedRow>;

/** One page of a kind's records with what their mail comes to, of the emails that the reader may know of. */
export async function recordList(tx: Tx, kind: RecordKind, query: RecordQuery): Promise<{ records: RecordRow[]; total: number }> {
  const conditions = conditionsOf(kind, query);
  const byMail = mailConditions(kind, query);
  // Mail is added up for all records only where the order or a filter asks for it; else for those of the page.
  const needsMail = byMail.length > 0 || query.sort in MAIL_ORDERS;
  const order = orderOf(query);
  const rows = await rowsOf(
    tx,
    listedRow,
    sql`
    WITH r AS (${SOURCES[kind]}) ${needsMail ? sql`, f AS MATERIALIZED (${figuresQuery(kind, null)})` : sql``}
    SELECT r.*, a.name AS account_name, u.name AS owner, count(*) OVER ()::int AS total
    FROM r ${needsMail ? sql`LEFT JOIN f ON f.record_id = r.id` : sql``} LEFT JOIN accounts a ON a.id = r.account_id LEFT JOIN users u ON u.id = r.owner_id
    WHERE ${sql.join([sql`true`, ...conditions, ...byMail], sql` AND `)} ORDER BY ${order}, lower(r.name), r.id LIMIT ${query.limit} OFFSET ${query.offset}`,
  );
  const figures = await mailFigures(
    tx,
    kind,
    rows.map((row) => row.id),
  );
  const logged = await lastLogged(
    tx,
    kind,
    rows.map((row) => row.id),
  );
  const listed = rows.map((row) => {
    const mail = figures.get(row.id) ?? NO_FIGURES;
    return { ...recordRow(kind, row), ...mail, lastContactAt: later(later(mail.lastEmailAt, mail.lastMetAt), logged.get(row.id) ?? null) };
  });
  return { records: listed, total: rows[0]?.total ?? 0 };
}

const later = (first: string | null, second: string | null): string | null => ((first ?? '') > (second ?? '') ? first : second);

function orderOf({ sort, descending }: RecordQuery): SQL {
  const direction = descending === 'yes' ? sql`DESC NULLS LAST` : sql`ASC NULLS LAST`;
  if (sort.startsWith('own:')) {
    const key = sort.slice(4);
    return sql`CASE WHEN jsonb_typeof(r.own -> ${key}) = 'number' THEN (r.own ->> ${key})::numeric END ${direction}, lower(r.own ->> ${key}) ${direction}`;
  }
  if (sort === 'stage')
    return sql`(SELECT s.position FROM deal_stages s WHERE lower(s.name) = lower(r.stage)) ${direction}, lower(r.stage) ${direction}`;
  // Of CASE-2 and CASE-10, the first is the lower.
  if (sort === 'code')
    return sql`regexp_replace(lower(r.code), '[0-9]+$', '') ${direction}, substring(r.code FROM '[0-9]+$')::numeric ${direction}`;
  return sql`${MAIL_ORDERS[sort] ?? ORDERS[sort] ?? ORDERS.name ?? sql`r.id`} ${direction}`;
}

function conditionsOf(kind: RecordKind, query: RecordQuery): SQL[] {
  const found: SQL[] = [];
  if (query.text) {
    const pattern = containing(query.text);
    // Names, addresses and codes by their indexes; the detail is one of a few words, or looked up there as well.
    found.push(sql`(r.id IN (SELECT l.id FROM fulvet_records_like(${kind}, ${pattern}, NULL) l) OR r.detail ILIKE ${pattern})`);
  }
  if (query.of) found.push(sql`r.of = ${query.of}`);
  if (query.origin) found.push(query.origin === 'fulvet' ? sql`r.origin_email_id IS NOT NULL` : sql`r.origin_email_id IS NULL`);
  if (query.open) found.push(sql`r.open = ${query.open === 'yes'}`);
  if (query.stage) found.push(sql`lower(r.stage) = lower(${query.stage})`);
  if (query.owner) found.push(query.owner === 'nobody' ? sql`r.owner_id IS NULL` : sql`r.owner_id = ${Number(query.owner)}`);
  if (query.account) found.push(sql`r.account_id = ${query.account}`);
  if (query.own) {
    const [key = '', ...rest] = query.own.split(':');
    found.push(
      sql`lower(CASE r.own -> ${key} WHEN 'true'::jsonb THEN 'yes' WHEN 'false'::jsonb THEN 'no' ELSE r.own ->> ${key} END) = lower(${rest.join(':')})`,
    );
  }
  return found;
}

function mailConditions(kind: RecordKind, query: RecordQuery): SQL[] {
  const found: SQL[] = [];
  if (query.unanswered) found.push(sql`f.unanswered > 0`);
  if (query.quiet !== undefined)
    found.push(
      sql`coalesce(greatest(f.last_at, f.met_at, ${lastLoggedOf(kind, sql`r.id`)}) < now() - make_interval(days => ${query.quiet}), true)`,
    );
  return found;
}

function recordRow(kind: RecordKind, row: ListedRow): Omit<RecordRow, keyof typeof NO_FIGURES | 'lastContactAt'> {
  return {
    id: row.id,
    kind,
    name: row.name,
    detail: row.detail,
    addresses: row.addresses,
    account: row.account_id === null ? null : { id: row.account_id, name: row.account_name ?? '' },
    owner: row.owner,
    ownerId: row.owner_id,
    createdByFulvet: row.origin_email_id !== null,
    stage: row.stage,
    open: row.open,
    amount: row.amount,
    currency: row.currency,
    code: row.code,
    of: row.of,
    own: ownTexts(row.own),
  };
}

const FOUND_OF_A_KIND = 8;
/** Of more records than this that fit, the best are not told apart. */
const MOST_LOOKED_AT = 300;

/** In the order in which they are shown. */
const SEARCHED = ['account', 'contact', 'deal', 'lead', 'own'] as const satisfies readonly RecordKind[];

/** Records of all kinds by name, address, domain or code; the best of each kind first. */
export async function searchRecords(tx: Tx, text: string): Promise<{ kind: RecordKind; id: number; name: string; detail: string }[]> {
  const pattern = containing(text);
  const found: { kind: RecordKind; id: number; name: string; detail: string }[] = [];
  for (const kind of SEARCHED) {
    // The names and the addresses are looked through by themselves; what a list shows of a record is only gathered for those that are found.
    const rows = await rowsOf(
      tx,
      sourceRow,
      sql`WITH r AS (SELECT r.* FROM (${SOURCES[kind]}) r WHERE r.id IN (SELECT l.id FROM fulvet_records_like(${kind}, ${pattern}, ${MOST_LOOKED_AT}) l))
      SELECT r.* FROM r ORDER BY r.name ILIKE ${pattern.slice(1)} DESC, r.name ILIKE ${pattern} DESC, (SELECT count(*) FROM filings f WHERE f.kind = ${kind} AND f.record_id = r.id) DESC, lower(r.name) LIMIT ${FOUND_OF_A_KIND}`,
    );
    found.push(...rows.map((row) => ({ kind, id: row.id, name: row.name, detail: row.addresses[0] ?? row.code ?? row.detail })));
  }
  return found;
}
