import { sql } from 'drizzle-orm';
import type { Tx } from '../db/database';
import { whatDependsOn } from '../records/whatDependsOn';

const KINDS = ['contact', 'lead', 'account'] as const;
type TraceKind = (typeof KINDS)[number];

/**
 * Takes away the records that sealed emails alone had brought about: their names would tell of the mail, and they would be known to the
 * decisions on others' mail. They are kept aside as they stood. Records on which something else has come to depend stay.
 *
 * @param records those under which the emails stood, as `kind:id`
 */
export async function hideTraces(tx: Tx, emailIds: readonly number[], records: readonly string[]): Promise<void> {
  if (emailIds.length === 0) return;
  for (const kind of KINDS) {
    const table = sql.identifier(`${kind}s`);
    const stoodUnder = records.filter((one) => one.startsWith(`${kind}:`)).map((one) => Number(one.slice(kind.length + 1)));
    const { rows } = await tx.execute<{ id: number; origin: number }>(sql`
      SELECT t.id, t.origin_email_id AS origin FROM ${table} t JOIN emails o ON o.id = t.origin_email_id AND o.outcome = 'sealed'
      WHERE (t.origin_email_id = ANY(${sql.param([...emailIds])}::bigint[]) OR t.id = ANY(${sql.param(stoodUnder)}::bigint[])) AND ${whatDependsOn(kind, { filings: true, made: 0 })} IS NULL`);
    for (const { id, origin } of rows) await putAside(tx, kind, id, origin);
  }
}

const DETAILS: Record<TraceKind, string> = {
  contact: 'person_addresses',
  lead: 'person_addresses',
  account: 'account_domains',
};

async function putAside(tx: Tx, kind: TraceKind, id: number, origin: number): Promise<void> {
  const table = sql.identifier(`${kind}s`);
  const details = sql.identifier(DETAILS[kind]);
  const ofRecord = kind === 'account' ? sql`account_id = ${id}` : sql`kind = ${kind} AND person_id = ${id}`;
  await tx.execute(sql`INSERT INTO sealed_records (email_id, kind, record_id, stood)
    SELECT ${origin}::bigint, ${kind}, t.id, jsonb_build_object('record', to_jsonb(t), 'details', (SELECT coalesce(jsonb_agg(to_jsonb(d)), '[]') FROM ${details} d WHERE ${ofRecord})) FROM ${table} t WHERE t.id = ${id} ON CONFLICT DO NOTHING`);
  await tx.execute(sql`DELETE FROM ${details} WHERE ${ofRecord}`);
  await tx.execute(sql`DELETE FROM ${table} WHERE id = ${id}`);
}

/** Puts back what was put aside for these emails, before they are decided anew; what another record has taken since is left to that. */
export async function bringBackTraces(tx: Tx, emailIds: readonly number[]): Promise<void> {
  const { rows } = await tx.execute<{ kind: TraceKind; record_id: number; stood: unknown }>(sql`
    WITH gone AS (DELETE FROM sealed_records WHERE email_id = ANY(${sql.param([...emailIds])}::bigint[]) RETURNING id, kind, record_id, stood) SELECT kind, record_id, stood FROM gone ORDER BY kind = 'account' DESC, id`);
  for (const { kind, record_id: id, stood } of rows) {
    if (kind !== 'account' && (await isTaken(tx, kind, stood))) continue;
    const table = sql.identifier(`${kind}s`);
    const value = JSON.stringify(stood);
    const { rows: columns } = await tx.execute<{ name: string }>(
      sql`SELECT k AS name FROM jsonb_object_keys(${value}::jsonb -> 'record') k ORDER BY 1`,
    );
    const list = sql.join(
      columns.map((one) => sql.identifier(one.name)),
      sql`, `,
    );
    const put = await tx.execute(
      sql`INSERT INTO ${table} (${list}) OVERRIDING SYSTEM VALUE SELECT ${list} FROM jsonb_populate_record(NULL::${table}, ${value}::jsonb -> 'record') ON CONFLICT DO NOTHING`,
    );
    if (put.rowCount === 0) continue;
    const details = sql.identifier(DETAILS[kind]);
    await tx.execute(
      sql`INSERT INTO ${details} SELECT d.* FROM jsonb_populate_recordset(NULL::${details}, ${value}::jsonb -> 'details') d ON CONFLICT DO NOTHING`,
    );
    // The account of a contact may be gone for good.
    if (kind === 'contact')
      await tx.execute(
        sql`UPDATE contacts c SET account_id = NULL WHERE c.id = ${id} AND NOT EXISTS (SELECT FROM accounts a WHERE a.id = c.account_id)`,
      );
  }
}

/** Whether another record has all of its addresses by now. */
async function isTaken(tx: Tx, kind: TraceKind, stood: unknown): Promise<boolean> {
  const { rows } = await tx.execute<{ all: number; taken: number }>(sql`
    SELECT count(*)::int AS all, count(a.address)::int AS taken FROM jsonb_array_elements(${JSON.stringify(stood)}::jsonb -> 'details') d LEFT JOIN person_addresses a ON a.kind = ${kind} AND a.address = d.value ->> 'address'`);
  const [row] = rows;
  return row !== undefined && row.all > 0 && row.all === row.taken;
}
