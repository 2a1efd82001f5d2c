import { z } from 'zod';
import { moment, rowsOf } from '../base/db/rows';
import { recordKind } from '@fulvet/contract';
import { notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { FIELD_INPUTS, OwnField, OwnKind, RecordDetail, RecordFieldValue, RecordKind } from '@fulvet/contract';
import type { CompiledRulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { filingAddress } from './filingAddress';
import { ruleTextOf } from '../rulebook/ruleTexts';
import { BY_HAND } from './byHand';
import { nounOf, PEOPLE_OF } from './kinds';
import type { KindWithPeople } from './kinds';
import { ownKinds } from './own/ownKinds';
import { ownFields } from './ownFields';
import { currentValues } from './currentValues';
import { mailFigures, NO_FIGURES } from './mailFigures';

type Related = RecordDetail['related'][number];
type Input = (typeof FIELD_INPUTS)[number];

/** Fields as a page shows them: key, label, how it is changed. */
const SHOWN: Record<RecordKind, readonly [key: string, label: string, input: Input, mono?: true][]> = {
  contact: [
    ['title', 'Title', 'text'],
    ['account', 'Account', 'account'],
    ['emails', 'Addresses', 'list', true],
    ['phone', 'Phones', 'list', true],
    ['owner', 'Owner', 'member'],
  ],
  lead: [
    ['company', 'Company', 'text'],
    ['title', 'Title', 'text'],
    ['status', 'Status', 'text'],
    ['emails', 'Addresses', 'list', true],
    ['phone', 'Phones', 'list', true],
    ['owner', 'Owner', 'member'],
  ],
  account: [
    ['type', 'Type', 'text'],
    ['parent', 'Parent', 'account'],
    ['domains', 'Domains', 'list', true],
    ['owner', 'Owner', 'member'],
  ],
  deal: [
    ['code', 'Code', 'text', true],
    ['account', 'Account', 'account'],
    ['stage', 'Stage', 'stage'],
    ['open', 'Open', 'yesNo'],
    ['amount', 'Amount', 'number'],
    ['currency', 'Currency', 'text'],
    ['owner', 'Owner', 'member'],
    ['opened_on', 'Opened', 'date'],
    ['closed_on', 'Closed', 'date'],
  ],
  own: [
    ['code', 'Number', 'text', true],
    ['account', 'Account', 'account'],
    ['state', 'State', 'state'],
    ['owner', 'Owner', 'member'],
    ['emails', 'Addresses', 'list', true],
    ['opened_on', 'Opened', 'date'],
    ['closed_on', 'Closed', 'date'],
  ],
};

const baseRow = z.object({
  name: z.string(),
  name_confidence: z.number(),
  account_id: z.number().nullable(),
  owner: z.string().nullable(),
  origin_email_id: z.number().nullable(),
  origin_rule: z.string().nullable(),
});
type Base = z.infer<typeof baseRow>;

const BASES: Record<RecordKind, SQL> = {
  contact: sql`SELECT t.id, t.name, t.name_confidence, t.account_id, t.owner_id, t.origin_email_id, t.origin_rule FROM contacts t`,
  lead: sql`SELECT t.id, t.name, t.name_confidence, NULL::bigint AS account_id, t.owner_id, t.origin_email_id, t.origin_rule FROM leads t`,
  account: sql`SELECT t.id, t.name, 1 AS name_confidence, t.parent_id AS account_id, t.owner_id, t.origin_email_id, t.origin_rule FROM accounts t`,
  deal: sql`SELECT t.id, t.name, 1 AS name_confidence, t.account_id, t.owner_id, NULL::bigint AS origin_email_id, NULL AS origin_rule FROM deals t`,
  own: sql`SELECT t.id, t.name, 1 AS name_confidence, t.account_id, t.owner_id, t.origin_email_id, t.origin_rule FROM own_records t`,
};

/** One record with its fields, the records beside it, and what its mail comes to. */
export async function recordDetail(tx: Tx, kind: RecordKind, id: number, rulebook: CompiledRulebook): Promise<RecordDetail | Refusal> {
  const rows = await rowsOf(
    tx,
    baseRow,
    sql`SELECT b.*, u.name AS owner FROM (${BASES[kind]}) b LEFT JOIN users u ON u.id = b.owner_id WHERE b.id = ${id}`,
  );
  const [base] = rows;
  const values = (await currentValues(tx, kind, [id])).get(id);
  if (!base || !values) return notFound(nounOf(kind));
  const ownKind = kind === 'own' ? ((await ownKinds(tx)).find(({ key }) => key === values.kind) ?? null) : null;
  const figures = (await mailFigures(tx, kind, [id])).get(id) ?? NO_FIGURES;
  return {
    kind,
    id,
    name: base.name,
    nameConfidence: Number(base.name_confidence),
    fields: [
      ...shownFields(kind, ownKind).map(([key, label, input, mono]) => ({
        ...builtIn(key, label, input, mono ?? false, values, base),
        choices: input === 'state' ? (ownKind?.states ?? []).map(({ name }) => name) : [],
      })),
      ...(await ownFields(tx, kind, ownKind?.key)).map((field) => ownOne(field, values)),
    ],
    of: ownKind?.key ?? null,
    people: kind === 'deal' || kind === 'own' ? await peopleOf(tx, kind, id) : [],
    related: (await RELATED[kind](tx, id)).filter((group) => group.records.length > 0),
    origin: base.origin_email_id === null ? null : await originOf(tx, base.origin_email_id, base.origin_rule ?? '', rulebook),
    filingAddress: await filingAddressOf(tx, kind, id),
    ...figures,
  };
}

/** What a record of an own kind has by its kind alone is shown where its kind has it. */
function shownFields(kind: RecordKind, ownKind: OwnKind | null): (typeof SHOWN)[RecordKind] {
  if (!ownKind) return SHOWN[kind];
  return SHOWN[kind].filter(([key]) => (key !== 'account' || ownKind.hasAccount) && (key !== 'emails' || ownKind.hasAddresses));
}

function builtIn(key: string, label: string, input: Input, mono: boolean, values: Record<string, string>, base: Base): RecordFieldValue {
  const value = values[key] ?? '';
  const isAccount = input === 'account' && base.account_id !== null;
  return {
    key,
    label,
    input,
    value,
    shown: shownOf(key, value, base),
    choices: [],
    link: isAccount ? { kind: 'account', id: base.account_id ?? 0 } : null,
    mono,
  };
}

function shownOf(key: string, value: string, base: Base): string {
  if (key === 'owner') return base.owner ?? '';
  if (key === 'amount' && value !== '') return Number(value).toLocaleString('en-GB');
  return value.replace(/;/g, ', ');
}

function ownOne({ key, label, type, choices }: OwnField, values: Record<string, string>): RecordFieldValue {
  const value = values[key] ?? '';
  return { key, label, input: type, value, shown: value, choices, link: null, mono: false };
}

const personOnRecordRow = z.object({ kind: recordKind, id: z.number(), name: z.string(), detail: z.string(), role: z.string() });

async function peopleOf(tx: Tx, kind: KindWithPeople, id: number): Promise<RecordDetail['people']> {
  const { table, id: column } = PEOPLE_OF[kind];
  const rows = await rowsOf(
    tx,
    personOnRecordRow,
    sql`
    SELECT p.kind, p.person_id AS id, coalesce(c.name, l.name, '') AS name, coalesce(nullif(c.title, ''), a.name, l.company, '') AS detail, p.role FROM ${table} p
      LEFT JOIN contacts c ON p.kind = 'contact' AND c.id = p.person_id LEFT JOIN accounts a ON a.id = c.account_id LEFT JOIN leads l ON p.kind = 'lead' AND l.id = p.person_id
    WHERE p.${column} = ${id} ORDER BY lower(coalesce(c.name, l.name, ''))`,
  );
  return rows;
}

const FILED_BY_ADDRESS = { account: 'accounts', lead: 'leads', deal: 'deals', own: 'own_records', contact: null } as const;

const filingAddressRow = z.object({ address: z.string(), code: z.string() });

/** Null for contacts, and where no mailbox for filing is connected. */
async function filingAddressOf(tx: Tx, kind: RecordKind, id: number): Promise<string | null> {
  const table = FILED_BY_ADDRESS[kind];
  if (table === null) return null;
  const rows = await rowsOf(
    tx,
    filingAddressRow,
    sql`SELECT m.address, r.filing_code AS code FROM ${sql.identifier(table)} r, mailboxes m WHERE r.id = ${id} AND m.kind = 'filing' AND m.state IN ('running', 'stopped', 'paused') ORDER BY m.id LIMIT 1`,
  );
  return rows[0] ? filingAddress(rows[0].address, rows[0].code) : null;
}

const emailRow = z.object({ sent_at: moment });

async function originOf(tx: Tx, emailId: number, rule: string, rulebook: CompiledRulebook): Promise<RecordDetail['origin']> {
  const rows = await rowsOf(tx, emailRow, sql`SELECT sent_at FROM emails WHERE id = ${emailId}`);
  return {
    emailId,
    at: rows[0] ? rows[0].sent_at : null,
    rule,
    ruleText: rule === BY_HAND ? BY_HAND : ruleTextOf(rulebook)(rule),
  };
}

const relatedRow = z.object({ id: z.number(), name: z.string(), detail: z.string() });

async function related(tx: Tx, label: string, kind: RecordKind, query: SQL): Promise<Related> {
  const rows = await rowsOf(tx, relatedRow, query);
  return { label, records: rows.map((row) => ({ kind, id: row.id, name: row.name, detail: row.detail })) };
}

const RELATED: Record<RecordKind, (tx: Tx, id: number) => Promise<Related[]>> = {
  contact: async (tx, id) => [
    await related(
      tx,
      'Deals',
      'deal',
      sql`SELECT d.id, d.name, concat_ws(' · ', d.code, d.stage, nullif(p.role, '')) AS detail FROM deal_people p JOIN deals d ON d.id = p.deal_id WHERE p.kind = 'contact' AND p.person_id = ${id} ORDER BY d.open DESC, lower(d.name)`,
    ),
    await related(
      tx,
      'Other records',
      'own',
      sql`SELECT o.id, o.code || ' ' || o.name AS name, o.state AS detail FROM own_record_people p JOIN own_records o ON o.id = p.record_id WHERE p.kind = 'contact' AND p.person_id = ${id} ORDER BY o.open DESC, o.id DESC`,
    ),
    await related(
      tx,
      'Accounts before',
      'account',
      sql`SELECT a.id, a.name, 'until ' || to_char(f.until, 'YYYY-MM-DD') AS detail FROM contact_accounts f JOIN accounts a ON a.id = f.account_id WHERE f.contact_id = ${id} ORDER BY f.until DESC`,
    ),
  ],
  lead: async (tx, id) => [
    await related(
      tx,
      'Deals',
      'deal',
      sql`SELECT d.id, d.name, concat_ws(' · ', d.code, d.stage) AS detail FROM deal_people p JOIN deals d ON d.id = p.deal_id WHERE p.kind = 'lead' AND p.person_id = ${id} ORDER BY d.open DESC, lower(d.name)`,
    ),
    await related(
      tx,
      'Other records',
      'own',
      sql`SELECT o.id, o.code || ' ' || o.name AS name, o.state AS detail FROM own_record_people p JOIN own_records o ON o.id = p.record_id WHERE p.kind = 'lead' AND p.person_id = ${id} ORDER BY o.open DESC, o.id DESC`,
    ),
  ],
  account: async (tx, id) => [
    await related(
      tx,
      'Deals',
      'deal',
      sql`SELECT id, name, concat_ws(' · ', code, stage) AS detail FROM deals WHERE account_id = ${id} ORDER BY open DESC, lower(name)`,
    ),
    await related(
      tx,
      'Other records',
      'own',
      sql`SELECT o.id, o.code || ' ' || o.name AS name, o.state AS detail FROM own_records o WHERE o.account_id = ${id} ORDER BY o.open DESC, o.id DESC`,
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
  deal: () => Promise.resolve([]),
  own: () => Promise.resolve([]),
};
