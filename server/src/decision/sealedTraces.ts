import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { mergeableKind } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { asItStands, MADE_KINDS, putBackRecord, removeRecords } from '../records/recordSnapshot';
import { whatDependsOn } from '../records/whatDependsOn';

const emailRow = z.object({ id: z.number(), origin: z.number() });

/**
 * Takes away the records that sealed emails alone had brought about: their names would tell of the mail, and they would be known to the
 * decisions on others' mail. They are kept aside as they stood. Records on which something else has come to depend stay.
 *
 * @param records those under which the emails stood, as `kind:id`
 */
export async function hideTraces(tx: Tx, emailIds: readonly number[], records: readonly string[]): Promise<void> {
  if (emailIds.length === 0) return;
  for (const kind of MADE_KINDS) {
    const table = sql.identifier(`${kind}s`);
    const stoodUnder = records.filter((record) => record.startsWith(`${kind}:`)).map((record) => Number(record.slice(kind.length + 1)));
    const rows = await rowsOf(
      tx,
      emailRow,
      sql`
      SELECT t.id, t.origin_email_id AS origin FROM ${table} t JOIN emails o ON o.id = t.origin_email_id AND o.outcome = 'sealed'
      WHERE (t.origin_email_id = ANY(${sql.param([...emailIds])}::bigint[]) OR t.id = ANY(${sql.param(stoodUnder)}::bigint[])) AND ${whatDependsOn(kind, { filings: true })} IS NULL`,
    );
    for (const { id, origin } of rows)
      await tx.execute(
        sql`INSERT INTO sealed_records (email_id, kind, record_id, stood) SELECT ${origin}::bigint, ${kind}, t.id, ${asItStands(kind)} FROM ${table} t WHERE t.id = ${id} ON CONFLICT DO NOTHING`,
      );
    await removeRecords(
      tx,
      kind,
      rows.map((row) => row.id),
    );
  }
}

const sealedRecordRow = z.object({ kind: mergeableKind, stood: z.unknown() });

/** Puts back what was put aside for these emails, before they are decided again; what another record has taken since is left to that. */
export async function bringBackTraces(tx: Tx, emailIds: readonly number[]): Promise<void> {
  const rows = await rowsOf(
    tx,
    sealedRecordRow,
    sql`
    WITH gone AS (DELETE FROM sealed_records WHERE email_id = ANY(${sql.param([...emailIds])}::bigint[]) RETURNING id, kind, stood) SELECT kind, stood FROM gone ORDER BY kind = 'account' DESC, id`,
  );
  for (const { kind, stood } of rows) await putBackRecord(tx, kind, stood);
}
