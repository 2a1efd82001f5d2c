import type { RecordDetail, RecordKind } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../db/database';
import { filingAddress } from '../filing/filingAddresses';
import { notFound } from '../http/errors';

type Fact = RecordDetail['facts'][number];
type Related = RecordDetail['related'][number];

/** One record with its facts, the records beside it, and how much mail stands under it. */
export async function recordDetail(tx: Tx, kind: RecordKind, id: number): Promise<RecordDetail> {
  const base = await LOADERS[kind](tx, id);
  if (!base) throw notFound(kind);
  const counts = await tx.execute<{ emails: number; conversations: number }>(
    sql`SELECT count(*)::int AS emails, count(DISTINCT e.conversation_id)::int AS conversations FROM filings f JOIN emails e ON e.id = f.email_id WHERE f.kind = ${kind} AND f.record_id = ${id}`,
  );
  const origin = base.originEmailId === null ? null : await originOf(tx, base.originEmailId, base.originRule);
  return {
    kind,
    id,
    name: base.name,
    facts: base.facts.filter((fact) => fact.value !== ''),
    related: base.related.filter((group) => group.records.length > 0),
    origin,
    filingAddress: await filingAddressOf(tx, kind, id),
    emails: counts.rows[0]?.emails ?? 0,
    conversations: counts.rows[0]?.conversations ?? 0,
  };
}

interface Base {
  name: string;
  facts: Fact[];
  related: Related[];
  originEmailId: number | null;
  originRule: string;
}

const FILED_BY_ADDRESS = { account: 'accounts', lead: 'leads', deal: 'deals', contact: null } as const;

/** Null for contacts, and where no mailbox for filing is connected. */
async function filingAddressOf(tx: Tx, kind: RecordKind, id: number): Promise<string | null> {
  const table = FILED_BY_ADDRESS[kind];
  if (table === null) return null;
  const { rows } = await tx.execute<{ address: string; code: string }>(
    sql`SELECT m.address, r.filing_code AS code FROM ${sql.identifier(table)} r, mailboxes m WHERE r.id = ${id} AND m.kind = 'filing' AND m.state IN ('running', 'stopped', 'paused') ORDER BY m.id LIMIT 1`,
  );
  return rows[0] ? filingAddress(rows[0].address, rows[0].code) : null;
}

async function originOf(tx: Tx, emailId: number, rule: string): Promise<RecordDetail['origin']> {
  const { rows } = await tx.execute<{ sent_at: string }>(sql`SELECT sent_at FROM emails WHERE id = ${emailId}`);
  return { emailId, at: rows[0] ? new Date(rows[0].sent_at).toISOString() : null, rule };
}

const fact = (label: string, value: string | null, extra: Partial<Fact> = {}): Fact => ({ label, value: value ?? '', ...extra });
type Linked = { id: number; name: string; detail: string };

async function related(tx: Tx, label: string, kind: RecordKind, query: ReturnType<typeof sql>): Promise<Related> {
  const { rows } = await tx.execute<Linked & Record<string, unknown>>(query);
  return { label, records: rows.map((row) => ({ kind, id: row.id, name: row.name, detail: row.detail })) };
}

const LOADERS: Record<RecordKind, (tx: Tx, id: number) => Promise<Base | null>> = {
  async contact(tx, id) {
    const { rows } = await tx.execute<{
      name: string;
      confidence: number;
      title: string;
      phone: string;
      account_id: number | null;
      account: string | null;
      owner: string | null;
      addresses: string[];
      origin_email_id: number | null;
      origin_rule: string | null;
    }>(sql`
      SELECT c.name, c.name_confidence AS confidence, c.title, c.phone, c.account_id, a.name AS account, u.name AS owner, c.origin_email_id, c.origin_rule, ARRAY(SELECT address FROM person_addresses x WHERE x.kind = 'contact' AND x.person_id = c.id ORDER BY position, address) AS addresses
      FROM contacts c LEFT JOIN accounts a ON a.id = c.account_id LEFT JOIN users u ON u.id = c.owner_id WHERE c.id = ${id}`);
    const row = rows[0];
    if (!row) return null;
    return {
      name: row.name,
      originEmailId: row.origin_email_id,
      originRule: row.origin_rule ?? '',
      facts: [
        fact('Title', row.title),
        fact('Account', row.account, row.account_id === null ? {} : { link: { kind: 'account', id: row.account_id } }),
        ...row.addresses.map((address) => fact('Address', address, { mono: true })),
        fact('Phone', row.phone, { mono: true }),
        fact('Owner', row.owner),
        fact(
          'Name',
          row.confidence < 1 ? (row.confidence === 0 ? 'not known yet' : `guessed, ${Math.round(row.confidence * 100)} % sure`) : '',
        ),
      ],
      related: [
        await related(
          tx,
          'Deals',
          'deal',
          sql`SELECT d.id, d.name, concat_ws(' · ', d.code, d.stage) AS detail FROM deal_people p JOIN deals d ON d.id = p.deal_id WHERE p.kind = 'contact' AND p.person_id = ${id} ORDER BY d.open DESC, lower(d.name)`,
        ),
      ],
    };
  },
  async lead(tx, id) {
    const { rows } = await tx.execute<{
      name: string;
      confidence: number;
      company: string;
      status: string;
      owner: string | null;
      addresses: string[];
      origin_email_id: number | null;
      origin_rule: string | null;
    }>(sql`
      SELECT l.name, l.name_confidence AS confidence, l.company, l.status, u.name AS owner, l.origin_email_id, l.origin_rule, ARRAY(SELECT address FROM person_addresses x WHERE x.kind = 'lead' AND x.person_id = l.id ORDER BY position, address) AS addresses
      FROM leads l LEFT JOIN users u ON u.id = l.owner_id WHERE l.id = ${id}`);
    const row = rows[0];
    if (!row) return null;
    return {
      name: row.name,
      originEmailId: row.origin_email_id,
      originRule: row.origin_rule ?? '',
      facts: [
        fact('Company', row.company),
        fact('Status', row.status),
        ...row.addresses.map((address) => fact('Address', address, { mono: true })),
        fact('Owner', row.owner),
      ],
      related: [],
    };
  },
  async account(tx, id) {
    const { rows } = await tx.execute<{
      name: string;
      type: string;
      parent_id: number | null;
      parent: string | null;
      owner: string | null;
      domains: string[];
      origin_email_id: number | null;
      origin_rule: string | null;
    }>(sql`
      SELECT a.name, a.type, a.parent_id, p.name AS parent, u.name AS owner, a.origin_email_id, a.origin_rule, ARRAY(SELECT domain FROM account_domains x WHERE x.account_id = a.id ORDER BY domain) AS domains
      FROM accounts a LEFT JOIN accounts p ON p.id = a.parent_id LEFT JOIN users u ON u.id = a.owner_id WHERE a.id = ${id}`);
    const row = rows[0];
    if (!row) return null;
    return {
      name: row.name,
      originEmailId: row.origin_email_id,
      originRule: row.origin_rule ?? '',
      facts: [
        fact('Type', row.type),
        fact('Parent', row.parent, row.parent_id === null ? {} : { link: { kind: 'account', id: row.parent_id } }),
        ...row.domains.map((domain) => fact('Domain', domain, { mono: true })),
        fact('Owner', row.owner),
      ],
      related: [
        await related(
          tx,
          'Deals',
          'deal',
          sql`SELECT id, name, concat_ws(' · ', code, stage) AS detail FROM deals WHERE account_id = ${id} ORDER BY open DESC, lower(name)`,
        ),
        await related(
          tx,
          'People',
          'contact',
          sql`SELECT c.id, c.name, coalesce(nullif(c.title, ''), (SELECT min(address) FROM person_addresses x WHERE x.kind = 'contact' AND x.person_id = c.id), '') AS detail FROM contacts c WHERE c.account_id = ${id} ORDER BY lower(c.name)`,
        ),
        await related(
          tx,
          'Subsidiaries',
          'account',
          sql`SELECT id, name, type AS detail FROM accounts WHERE parent_id = ${id} ORDER BY lower(name)`,
        ),
      ],
    };
  },
  async deal(tx, id) {
    const { rows } = await tx.execute<{
      name: string;
      code: string | null;
      account_id: number | null;
      account: string | null;
      owner: string | null;
      stage: string;
      open: boolean;
      amount: number | null;
      currency: string;
      closed_on: string | null;
    }>(sql`
      SELECT d.name, d.code, d.account_id, a.name AS account, u.name AS owner, d.stage, d.open, d.amount, d.currency, d.closed_on::text FROM deals d LEFT JOIN accounts a ON a.id = d.account_id LEFT JOIN users u ON u.id = d.owner_id WHERE d.id = ${id}`);
    const row = rows[0];
    if (!row) return null;
    return {
      name: row.name,
      originEmailId: null,
      originRule: '',
      facts: [
        fact('Code', row.code, { mono: true }),
        fact('Account', row.account, row.account_id === null ? {} : { link: { kind: 'account', id: row.account_id } }),
        fact('Stage', row.stage),
        fact('State', row.open ? 'open' : `closed${row.closed_on ? ` on ${row.closed_on}` : ''}`),
        fact('Amount', row.amount === null ? '' : `${row.amount.toLocaleString('en-GB')} ${row.currency}`.trim()),
        fact('Owner', row.owner),
      ],
      related: [
        await related(
          tx,
          'People',
          'contact',
          sql`SELECT c.id, c.name, coalesce(a.name, '') AS detail FROM deal_people p JOIN contacts c ON p.kind = 'contact' AND c.id = p.person_id LEFT JOIN accounts a ON a.id = c.account_id WHERE p.deal_id = ${id} ORDER BY lower(c.name)`,
        ),
        await related(
          tx,
          'Leads',
          'lead',
          sql`SELECT l.id, l.name, l.company AS detail FROM deal_people p JOIN leads l ON p.kind = 'lead' AND l.id = p.person_id WHERE p.deal_id = ${id} ORDER BY lower(l.name)`,
        ),
      ],
    };
  },
};
