import { z } from 'zod';
import { json, manyRowsOf } from '../base/db/rows';
import type { RecordKind } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { ownTexts } from './ownFields';

const ownValuesRow = z.object({ id: z.number(), own: json<Record<string, unknown>>() });

/** What stands, as text by field, of these records or of all: for comparing, for the export, for the log of changes. */
export async function currentValues(
  tx: Tx,
  kind: RecordKind,
  ids: readonly number[] | null = null,
): Promise<Map<number, Record<string, string>>> {
  const rows = await manyRowsOf(
    tx,
    ownValuesRow,
    sql`SELECT q.* FROM (${CURRENT[kind]}) q WHERE ${ids === null ? sql`true` : sql`q.id = ANY(${sql.param([...ids])}::bigint[])`}`,
  );
  return new Map(
    rows.map(({ id: own, own: values, ...texts }) => [Number(own), { ...(texts as Record<string, string>), ...ownTexts(values) }]),
  );
}

const CURRENT = {
  account: sql`SELECT a.id, a.own, a.name, coalesce((SELECT string_agg(d.domain, ';' ORDER BY d.domain) FROM account_domains d WHERE d.account_id = a.id), '') AS domains, coalesce(p.name, '') AS parent, a.type, coalesce(u.email, '') AS owner
    FROM accounts a LEFT JOIN accounts p ON p.id = a.parent_id LEFT JOIN users u ON u.id = a.owner_id ORDER BY lower(a.name), a.id`,
  contact: sql`SELECT c.id, c.own, c.name, coalesce((SELECT string_agg(x.address, ';' ORDER BY x.position, x.address) FROM person_addresses x WHERE x.kind = 'contact' AND x.person_id = c.id), '') AS emails, coalesce(a.name, '') AS account, c.title, array_to_string(c.phones, ';') AS phone, coalesce(u.email, '') AS owner
    FROM contacts c LEFT JOIN accounts a ON a.id = c.account_id LEFT JOIN users u ON u.id = c.owner_id ORDER BY lower(c.name), c.id`,
  lead: sql`SELECT l.id, l.own, l.name, coalesce((SELECT string_agg(x.address, ';' ORDER BY x.position, x.address) FROM person_addresses x WHERE x.kind = 'lead' AND x.person_id = l.id), '') AS emails, l.company, l.title, array_to_string(l.phones, ';') AS phone, l.status, coalesce(u.email, '') AS owner
    FROM leads l LEFT JOIN users u ON u.id = l.owner_id ORDER BY lower(l.name), l.id`,
  deal: sql`SELECT d.id, d.own, coalesce(d.code, '') AS code, d.name, coalesce(a.name, '') AS account, coalesce(u.email, '') AS owner, d.stage, CASE WHEN d.open THEN 'yes' ELSE 'no' END AS open, coalesce(d.amount::text, '') AS amount, d.currency,
      coalesce((SELECT string_agg((SELECT x.address FROM person_addresses x WHERE x.kind = p.kind AND x.person_id = p.person_id ORDER BY x.position, x.address LIMIT 1), ';') FROM deal_people p WHERE p.deal_id = d.id), '') AS people, coalesce(d.closed_on::text, '') AS closed_on, coalesce(d.opened_on::text, '') AS opened_on
    FROM deals d LEFT JOIN accounts a ON a.id = d.account_id LEFT JOIN users u ON u.id = d.owner_id ORDER BY lower(d.name), d.id`,
  own: sql`SELECT o.id, o.own, k.key AS kind, o.code, o.name, coalesce(a.name, '') AS account, coalesce(u.email, '') AS owner, o.state,
      coalesce((SELECT string_agg((SELECT x.address FROM person_addresses x WHERE x.kind = p.kind AND x.person_id = p.person_id ORDER BY x.position, x.address LIMIT 1), ';' ORDER BY p.kind, p.person_id) FROM own_record_people p WHERE p.record_id = o.id), '') AS people,
      coalesce((SELECT string_agg(x.address, ';' ORDER BY x.address) FROM own_record_addresses x WHERE x.record_id = o.id), '') AS emails, o.opened_on::text AS opened_on, coalesce(o.closed_on::text, '') AS closed_on
    FROM own_records o JOIN own_kinds k ON k.id = o.kind_id LEFT JOIN accounts a ON a.id = o.account_id LEFT JOIN users u ON u.id = o.owner_id ORDER BY k.position, o.id`,
} satisfies Record<RecordKind, ReturnType<typeof sql>>;
