import { merges } from '../../base/db/schema';
import { z } from 'zod';
import { idRow, json, rowsOf } from '../../base/db/rows';
import { mergeableKind } from '@fulvet/contract';
import { markUndone } from '../../base/undoLog';
import { Refusal, isRefusal, notFound } from '../../base/refusal';
import type { User } from '@fulvet/contract';
import { sql, eq } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';
import type { Concerned } from '../../base/concerned';
import { takeMailLock } from '../../base/db/mailLock';
import { ledTo } from '../mailLedTo';
import { currentValues } from '../currentValues';
import { noteChanges } from '../recordLog';
import type { MergeableKind } from './duplicatesOf';
import { touchedBy, POINTERS } from './mergeRecords';
import type { Stood } from './mergeRecords';

const mergeRow = z.object({
  kind: mergeableKind,
  kept_id: z.number(),
  gone_id: z.number(),
  user_id: z.number(),
  stood: json<Stood>(),
  undone: z.boolean(),
});

/** Parts two records again as they were; what was changed of the one that stayed in the meantime is taken back with it. */
export async function undoMerge(tx: Tx, user: User, mergeId: number): Promise<{ mail: Concerned } | Refusal> {
  await takeMailLock(tx);
  const rows = await rowsOf(
    tx,
    mergeRow,
    sql`SELECT kind, kept_id, gone_id, user_id, stood, undone_at IS NOT NULL AS undone FROM merges WHERE id = ${mergeId} FOR UPDATE`,
  );
  const [merge] = rows;
  if (!merge || (merge.user_id !== user.id && user.role !== 'admin')) return notFound('merge');
  if (merge.undone) return new Refusal('conflict', 'undone', 'This merge has already been undone.');
  const { kind, kept_id: keptId, gone_id: goneId, stood } = merge;
  const later = await rowsOf(
    tx,
    idRow,
    sql`SELECT id FROM merges WHERE undone_at IS NULL AND kind = ${kind} AND id > ${mergeId} AND (kept_id IN (${keptId}, ${goneId}) OR gone_id IN (${keptId}, ${goneId})) LIMIT 1`,
  );
  if (later[0]) return new Refusal('conflict', 'later', 'One of these records was merged again since. Take the later merge back first.');
  if (kind === 'account') {
    const refused = await refuseTakenNames(tx, [keptId, goneId], stood);
    if (isRefusal(refused)) return refused;
  }
  const united = (await currentValues(tx, kind, [keptId])).get(keptId);
  await putBack(tx, kind, keptId, goneId, stood);
  await tx
    .update(merges)
    .set({ undoneAt: sql`now()` })
    .where(eq(merges.id, mergeId));
  await markUndone(tx, user.id, 'merge', { mergeId });
  await noteChanges(tx, user.id, kind, keptId, [{ field: 'record', before: 'merged', after: 'parted again' }]);
  return { mail: { ...ledTo(kind, [united]), records: { kind, ids: [keptId, goneId] } } };
}

const nameRow = z.object({ name: z.string() });

/** @throws where another account has got the name of one of the two since: no two have the same */
async function refuseTakenNames(tx: Tx, ids: readonly number[], stood: Stood): Promise<Refusal | null> {
  const rows = await rowsOf(
    tx,
    nameRow,
    sql`
    SELECT a.name FROM jsonb_populate_recordset(NULL::accounts, ${JSON.stringify(stood.accounts ?? [])}::jsonb) s JOIN accounts a ON lower(a.name) = lower(s.name)
    WHERE NOT a.id = ANY(${sql.param([...ids])}::bigint[]) LIMIT 1`,
  );
  if (rows[0])
    return new Refusal(
      'conflict',
      'taken',
      `Another account is called “${rows[0].name}” by now. Give that one another name, then part these two.`,
    );
  return null;
}

async function putBack(tx: Tx, kind: MergeableKind, keptId: number, goneId: number, stood: Stood): Promise<void> {
  const records = `${kind}s`;
  const ordered = [...touchedBy(kind, keptId, goneId)].sort(
    (first, second) => Number(second.table === records) - Number(first.table === records),
  );
  for (const { table, where } of ordered) {
    const rows = JSON.stringify(stood[table] ?? []);
    const name = sql.identifier(table);
    const pointer = table === records ? undefined : POINTERS[table];
    if (pointer !== undefined) {
      await tx.execute(
        sql`UPDATE ${name} t SET ${sql.identifier(pointer)} = s.${sql.identifier(pointer)} FROM jsonb_populate_recordset(NULL::${name}, ${rows}::jsonb) s WHERE s.id = t.id`,
      );
      continue;
    }
    if (table === records) {
      await putRecordsBack(tx, name, rows, keptId);
      continue;
    }
    await tx.execute(sql`DELETE FROM ${name} WHERE ${where}`);
    // An email that is gone since, or a record, takes its rows with it.
    const alive =
      table === 'filings'
        ? sql`WHERE EXISTS (SELECT FROM emails e WHERE e.id = s.email_id)`
        : table === 'deal_people'
          ? sql`WHERE EXISTS (SELECT FROM deals d WHERE d.id = s.deal_id)`
          : table === 'own_record_people'
            ? sql`WHERE EXISTS (SELECT FROM own_records o WHERE o.id = s.record_id)`
            : sql``;
    await tx.execute(
      sql`INSERT INTO ${name} SELECT s.* FROM jsonb_populate_recordset(NULL::${name}, ${rows}::jsonb) s ${alive} ON CONFLICT DO NOTHING`,
    );
  }
  if (kind === 'account')
    await tx.execute(
      sql`UPDATE accounts a SET parent_id = s.parent_id FROM json_to_recordset(${JSON.stringify(stood.children ?? [])}::json) AS s(id bigint, parent_id bigint) WHERE a.id = s.id`,
    );
}

/** The one that stayed first: it may have the other's name, which no two have. */
async function putRecordsBack(tx: Tx, name: SQL | ReturnType<typeof sql.identifier>, rows: string, keptId: number): Promise<void> {
  const columns = await rowsOf(
    tx,
    nameRow,
    sql`SELECT k AS name FROM (SELECT DISTINCT jsonb_object_keys(r) AS k FROM jsonb_array_elements(${rows}::jsonb) r) q WHERE k <> 'id' ORDER BY 1`,
  );
  const list = sql.join(
    columns.map((column) => sql.identifier(column.name)),
    sql`, `,
  );
  const set = sql.join(
    columns.map((column) => sql`${sql.identifier(column.name)} = excluded.${sql.identifier(column.name)}`),
    sql`, `,
  );
  await tx.execute(
    sql`INSERT INTO ${name} (id, ${list}) OVERRIDING SYSTEM VALUE SELECT s.id, ${sql.join(
      columns.map((column) => sql`s.${sql.identifier(column.name)}`),
      sql`, `,
    )} FROM jsonb_populate_recordset(NULL::${name}, ${rows}::jsonb) s ORDER BY s.id <> ${keptId} ON CONFLICT (id) DO UPDATE SET ${set}`,
  );
}
