import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { Refusal, isRefusal, notFound } from '../base/refusal';
import type { RecordKind } from '@fulvet/contract';
import type { CompiledRulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import type { Concerned } from '../base/concerned';
import { setParent, writeRow } from './writeRecord';
import { RECORD_FIELDS } from './fields';
import { nounOf, tableOf } from './kinds';
import { ledTo } from './mailLedTo';
import { kindOfRecord, normaliseOwnRecord } from './own/normaliseOwnRecord';
import { ownKinds } from './own/ownKinds';
import { ownFields } from './ownFields';
import type { PlannedRow } from './writeRecord';
import { currentValues } from './currentValues';
import { normaliseOwn } from './ownFields';
import { normaliseDeal, readAddresses, readDomains } from './readValues';
import { emailOfMember, idOfAccount, idOfMember } from './idsByName';
import type { FieldChange } from './recordLog';
import { changesBetween, noteChanges, noteCreated } from './recordLog';

type Values = Record<string, string>;

const wrong = (field: string, sentence: string): Refusal =>
  new Refusal('unfit', 'bad-input', `${sentence} Nothing was changed.`, { [field]: sentence });

export interface EditedRecord {
  id: number;
  name: string;
  /** What differs now from what it said before. */
  changes: FieldChange[];
  /** Whose mail it concerns. */
  concerned: Concerned;
}

/**
 * Creates a record, or changes the fields that are named, each as text in the form that files have. Every change is noted with before and after.
 *
 * @param id null for a new record
 * @returns the record's id, and whose mail it concerns
 */
export async function editRecord(
  tx: Tx,
  userId: number,
  kind: RecordKind,
  id: number | null,
  given: Values,
  rulebook: CompiledRulebook,
): Promise<EditedRecord | Refusal> {
  const before = id === null ? null : (await currentValues(tx, kind, [id])).get(id);
  if (before === undefined) return notFound(nounOf(kind));
  const ownKind = kind === 'own' ? kindOfRecord(await ownKinds(tx), given.kind, before) : null;
  if (ownKind && 'reason' in ownKind) return wrong(ownKind.field, ownKind.reason);
  const own = await ownFields(tx, kind, ownKind?.key);
  const known = new Set([...RECORD_FIELDS[kind].map((field) => field.name), ...own.map((field) => field.key)]);
  const strange = Object.keys(given).find((field) => !known.has(field));
  if (strange !== undefined) return wrong(strange, `A ${ownKind?.singular.toLowerCase() ?? kind} has no field “${strange}”.`);
  const values: Values = { ...given, name: (given.name ?? before?.name ?? '').trim() };
  if (values.name === '') return wrong('name', 'The name is missing.');
  if ((values.name ?? '').length > 300) return wrong('name', 'The name is longer than 300 characters.');
  if (kind === 'deal') {
    const refused = await completeDeal(tx, values, before);
    if (isRefusal(refused)) return refused;
  }
  if (ownKind) {
    values.owner ??= before?.owner ?? (await emailOfMember(tx, userId)) ?? '';
    const fault = normaliseOwnRecord(ownKind, values, before);
    if (fault) return wrong(fault.field, fault.reason);
  }
  const row = await plannedRow(tx, kind, id, values, own, rulebook);
  if (isRefusal(row)) return row;
  if (ownKind) row.ownKindId = ownKind.id;
  const takenBy = await checkTaken(tx, kind, id, row);
  if (isRefusal(takenBy)) return takenBy;
  const recordId = await writeRow(tx, kind, row, own);
  row.id = recordId;
  if (kind === 'account' && 'parent' in values) await setParent(tx, row);
  if (kind === 'account') {
    const circle = await checkParents(tx, recordId);
    if (isRefusal(circle)) return circle;
  }
  const after = (await currentValues(tx, kind, [recordId])).get(recordId) ?? {};
  const changes = changesBetween(before ?? {}, after);
  if (before) await noteChanges(tx, userId, kind, recordId, changes);
  else await noteCreated(tx, userId, { kind, id: recordId, name: row.values.name ?? '' });
  return { id: recordId, name: after.name ?? '', changes, concerned: concernedBy(kind, recordId, before ?? {}, after) };
}

const dealStageRow = z.object({ open: z.boolean() });

/** A stage says whether a deal is open; a deal that closes today closes today. */
async function completeDeal(tx: Tx, values: Values, before: Values | null): Promise<Refusal | null> {
  if (values.stage !== undefined && values.open === undefined) {
    const rows = await rowsOf(tx, dealStageRow, sql`SELECT open FROM deal_stages WHERE lower(name) = lower(${values.stage})`);
    if (rows[0]) values.open = rows[0].open ? 'yes' : 'no';
  }
  values.open ??= before?.open ?? 'yes';
  const today = new Date().toISOString().slice(0, 10);
  if (values.open === 'no' && values.closed_on === undefined && !before?.closed_on) values.closed_on = today;
  if (values.open === 'yes' && values.closed_on === undefined && before?.closed_on) values.closed_on = '';
  if (before === null && values.opened_on === undefined) values.opened_on = today;
  const sentence = normaliseDeal(values);
  if (sentence) return wrong('amount', sentence);
  return null;
}

async function plannedRow(
  tx: Tx,
  kind: RecordKind,
  id: number | null,
  values: Values,
  own: Parameters<typeof normaliseOwn>[0],
  rulebook: CompiledRulebook,
): Promise<PlannedRow | Refusal> {
  const bad = normaliseOwn(own, values);
  if (bad) return wrong(own.find((field) => bad.includes(field.label))?.key ?? 'own', bad);
  const addresses = readAddresses(values.emails ?? '', rulebook);
  if (typeof addresses === 'string') return wrong('emails', addresses);
  const domains = readDomains(values.domains ?? '', rulebook);
  if (typeof domains === 'string') return wrong('domains', domains);
  const people = readAddresses(values.people ?? '', rulebook);
  if (typeof people === 'string') return wrong('people', people);
  const owner = values.owner ? await idOfMember(tx, values.owner) : null;
  if (values.owner && owner === null) return wrong('owner', `${values.owner} is not on the team.`);
  const account = kind === 'account' ? values.parent : kind === 'lead' ? undefined : values.account;
  const field = kind === 'account' ? 'parent' : 'account';
  if (account && (await idOfAccount(tx, account)) === null)
    return wrong(field, `The account “${account}” is not known. Create it first, or correct the name.`);
  return {
    line: 0,
    action: id === null ? 'create' : 'update',
    id,
    values,
    ownerId: owner,
    accountName: account ? account : null,
    addresses,
    domains,
    people,
  };
}

const personAddressRow = z.object({ address: z.string(), name: z.string() });

const dealRow = z.object({ name: z.string() });

/** What one record has, no other of its kind may have. */
async function checkTaken(tx: Tx, kind: RecordKind, id: number | null, row: PlannedRow): Promise<Refusal | null> {
  const other = id ?? 0;
  if (kind === 'contact' || kind === 'lead') {
    const table = tableOf(kind);
    const rows = await rowsOf(
      tx,
      personAddressRow,
      sql`SELECT a.address, t.name FROM person_addresses a JOIN ${table} t ON t.id = a.person_id WHERE a.kind = ${kind} AND a.address = ANY(${sql.param(row.addresses)}::text[]) AND a.person_id <> ${other}`,
    );
    if (rows[0])
      return new Refusal(
        'conflict',
        'taken',
        `${rows[0].address} belongs to the ${kind} ${rows[0].name} already. Merge the two, or take it off there first.`,
        { emails: 'is taken' },
      );
  }
  if (kind === 'account') {
    const { rows } = await tx.execute(sql`SELECT FROM accounts WHERE lower(name) = lower(${row.values.name}) AND id <> ${other}`);
    if (rows.length > 0)
      return new Refusal(
        'conflict',
        'taken',
        `There is an account “${row.values.name ?? ''}” already. Give this one another name, or merge the two.`,
        { name: 'is taken' },
      );
  }
  if (kind === 'deal' && row.values.code) {
    const rows = await rowsOf(tx, dealRow, sql`SELECT name FROM deals WHERE upper(code) = upper(${row.values.code}) AND id <> ${other}`);
    if (rows[0])
      return new Refusal('conflict', 'taken', `The code ${row.values.code} belongs to the deal ${rows[0].name} already.`, {
        code: 'is taken',
      });
  }
  if (kind === 'own' && row.values.code) {
    const rows = await rowsOf(
      tx,
      dealRow,
      sql`SELECT name FROM own_records WHERE upper(code) = upper(${row.values.code}) AND id <> ${other}`,
    );
    if (rows[0])
      return new Refusal('conflict', 'taken', `The number ${row.values.code} is that of ${rows[0].name} already.`, { code: 'is taken' });
  }
  return null;
}

/** An account may not stand above itself. */
async function checkParents(tx: Tx, id: number): Promise<Refusal | null> {
  const { rows } = await tx.execute(sql`
    WITH RECURSIVE up AS (SELECT parent_id AS id, 1 AS depth FROM accounts WHERE id = ${id} UNION ALL SELECT a.parent_id, depth + 1 FROM up JOIN accounts a ON a.id = up.id WHERE depth < 50)
    SELECT FROM up WHERE id = ${id} LIMIT 1`);
  if (rows.length > 0) return wrong('parent', 'An account cannot stand above itself. Choose another parent.');
  return null;
}

/** Fields on which no decision rests. */
const IDLE: ReadonlySet<string> = new Set(['title', 'phone', 'company', 'status', 'currency', 'parent']);
/** Their names tell which mail is about them. */
const NAMED_IN_MAIL: ReadonlySet<RecordKind> = new Set(['deal', 'account', 'own']);

/** Whose mail may be decided otherwise: by what the record said before, and by all that it leads to now. */
function concernedBy(kind: RecordKind, id: number, before: Values, after: Values): Concerned {
  const changed = changesBetween(before, after).map((change) => change.field);
  if (changed.every((field) => IDLE.has(field))) return { addresses: [], domains: [] };
  if (!NAMED_IN_MAIL.has(kind) && changed.every((field) => IDLE.has(field) || field === 'name'))
    return { addresses: [], domains: [], renamed: { kind, ids: [id] } };
  const { codes, ...led } = ledTo(kind, [before]);
  return { ...led, ...(changed.includes('code') ? { codes } : {}), records: { kind, ids: [id] } };
}
