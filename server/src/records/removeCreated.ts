import { personAddresses } from '../base/db/schema';
import { z } from 'zod';
import { idRow, rowsOf } from '../base/db/rows';
import type { RecordKind, Undone } from '@fulvet/contract';
import { sql, eq, and } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { whatDependsOn } from './whatDependsOn';
import { tableOf } from './kinds';

/** A record that stays, and why. */
export type KeptRecord = Undone['kept'][number] & { kind: RecordKind };

const keptBecauseRow = z.object({ name: z.string(), because: z.string().nullable() });

/**
 * Removes created records on which nothing else depends; people first, since accounts depend on them.
 *
 * @param filings whether emails under one keep it
 * @returns those that stay
 */
export async function removeCreated(
  tx: Tx,
  created: readonly { kind: RecordKind; id: number }[],
  { filings } = { filings: false },
): Promise<KeptRecord[]> {
  const kept: KeptRecord[] = [];
  for (const kind of ['own', 'deal', 'contact', 'lead', 'account'] as const) {
    for (const { id } of created.filter((item) => item.kind === kind)) {
      const table = tableOf(kind);
      const rows = await rowsOf(
        tx,
        keptBecauseRow,
        sql`
        SELECT t.name, ${whatDependsOn(kind, { filings })} AS because
        FROM ${table} t WHERE t.id = ${id}`,
      );
      const [row] = rows;
      if (!row) continue;
      if (row.because !== null) kept.push({ kind, id, name: row.name, because: row.because });
      else {
        await tx.delete(personAddresses).where(and(eq(personAddresses.kind, kind), eq(personAddresses.personId, id)));
        await tx.execute(sql`DELETE FROM ${table} WHERE id = ${id}`);
      }
    }
  }
  return kept;
}

/** Takes what is filed under removed records off them. @returns its conversations */
export async function detach(tx: Tx, gone: readonly { kind: RecordKind; id: number }[]): Promise<number[]> {
  if (gone.length === 0) return [];
  const rows = await rowsOf(
    tx,
    idRow,
    sql`
    WITH freed AS (DELETE FROM filings f USING json_to_recordset(${JSON.stringify(gone)}::json) AS g(kind text, id bigint) WHERE f.kind = g.kind AND f.record_id = g.id RETURNING f.email_id)
    SELECT DISTINCT e.conversation_id AS id FROM freed f JOIN emails e ON e.id = f.email_id`,
  );
  return rows.map((row) => row.id);
}
