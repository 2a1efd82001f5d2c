import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { tableOf } from './kinds';

/** Kinds of records that mail creates; people before accounts, which depend on them. */
export const MADE_KINDS = ['contact', 'lead', 'account'] as const;
export type MadeKind = (typeof MADE_KINDS)[number];

/** Where the addresses and domains of a record stand. */
const DETAILS: Record<MadeKind, { table: string; ofRecord: (id: SQL) => SQL }> = {
  contact: { table: 'person_addresses', ofRecord: (id) => sql`d.kind = 'contact' AND d.person_id = ${id}` },
  lead: { table: 'person_addresses', ofRecord: (id) => sql`d.kind = 'lead' AND d.person_id = ${id}` },
  account: { table: 'account_domains', ofRecord: (id) => sql`d.account_id = ${id}` },
};

/** SQL for the record `t` as {@link putBackRecord} takes it, with its addresses or domains. */
export function asItStands(kind: MadeKind): SQL {
  const { table, ofRecord } = DETAILS[kind];
  return sql`jsonb_build_object('record', to_jsonb(t), 'details', (SELECT coalesce(jsonb_agg(to_jsonb(d)), '[]') FROM ${sql.identifier(table)} d WHERE ${ofRecord(sql`t.id`)}))`;
}

/** Removes records with their addresses or domains. */
export async function removeRecords(tx: Tx, kind: MadeKind, ids: readonly number[]): Promise<void> {
  if (ids.length === 0) return;
  const { table, ofRecord } = DETAILS[kind];
  const these = sql`${sql.param([...ids])}::bigint[]`;
  await tx.execute(sql`DELETE FROM ${sql.identifier(table)} d USING unnest(${these}) AS gone(id) WHERE ${ofRecord(sql`gone.id`)}`);
  await tx.execute(sql`DELETE FROM ${tableOf(kind)} WHERE id = ANY(${these})`);
}

const columnRow = z.object({ name: z.string() });

/**
 * Puts a record back as it stood; addresses that another record has taken since stay there.
 *
 * @returns false where another record has all of its addresses, or its name: then it stays away
 */
export async function putBackRecord(tx: Tx, kind: MadeKind, stood: unknown): Promise<boolean> {
  if (kind !== 'account' && (await isTaken(tx, kind, stood))) return false;
  const table = tableOf(kind);
  const value = JSON.stringify(stood);
  const columns = await rowsOf(tx, columnRow, sql`SELECT k AS name FROM jsonb_object_keys(${value}::jsonb -> 'record') k ORDER BY 1`);
  const list = sql.join(
    columns.map((column) => sql.identifier(column.name)),
    sql`, `,
  );
  const record = sql`(${value}::jsonb -> 'record')`;
  const linked = kind === 'lead' ? record : sql`${record} || ${linkToAccount(record, kind === 'contact' ? 'account_id' : 'parent_id')}`;
  const put = await tx.execute(
    sql`INSERT INTO ${table} (${list}) OVERRIDING SYSTEM VALUE SELECT ${list} FROM jsonb_populate_record(NULL::${table}, ${linked}) ON CONFLICT DO NOTHING`,
  );
  if (put.rowCount === 0) return false;
  const details = sql.identifier(DETAILS[kind].table);
  await tx.execute(
    sql`INSERT INTO ${details} SELECT d.* FROM jsonb_populate_recordset(NULL::${details}, ${value}::jsonb -> 'details') d ON CONFLICT DO NOTHING`,
  );
  return true;
}

/** The account of a record as it is now: it may have gone into another since, or be gone for good. */
function linkToAccount(record: SQL, column: 'account_id' | 'parent_id'): SQL {
  const stood = sql`(${record} ->> ${column}::text)::bigint`;
  return sql`jsonb_build_object(${column}::text, (SELECT a.id FROM accounts a WHERE a.id = coalesce((SELECT m.kept_id FROM merges m WHERE m.kind = 'account' AND m.gone_id = ${stood} AND m.undone_at IS NULL ORDER BY m.id DESC LIMIT 1), ${stood})))`;
}

const takenRow = z.object({ all: z.number(), taken: z.number() });

/** Whether another record has all of its addresses by now. */
async function isTaken(tx: Tx, kind: MadeKind, stood: unknown): Promise<boolean> {
  const rows = await rowsOf(
    tx,
    takenRow,
    sql`
    SELECT count(*)::int AS all, count(a.address)::int AS taken FROM jsonb_array_elements(${JSON.stringify(stood)}::jsonb -> 'details') d LEFT JOIN person_addresses a ON a.kind = ${kind} AND a.address = d.value ->> 'address'`,
  );
  const [row] = rows;
  return row !== undefined && row.all > 0 && row.all === row.taken;
}
