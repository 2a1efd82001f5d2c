import type { RecordKind } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';

/** One change of a record's field, in words. */
export interface FieldChange {
  field: string;
  before: string;
  after: string;
}

/**
 * Notes changes of a record with before and after; what did not change is not noted.
 *
 * @param userId who changed it, or null for what mail told
 */
export async function noteChanges(
  tx: Tx,
  userId: number | null,
  kind: RecordKind,
  id: number,
  changes: readonly FieldChange[],
): Promise<void> {
  const real = changes.filter((change) => change.before !== change.after);
  if (real.length === 0) return;
  await tx.execute(sql`INSERT INTO record_changes (kind, record_id, user_id, field, before, after)
    SELECT ${kind}, ${id}::bigint, ${userId}::bigint, field, before, after FROM json_to_recordset(${JSON.stringify(real)}::json) AS c(field text, before text, after text)`);
}

export function noteCreated(tx: Tx, userId: number, { kind, id, name }: { kind: RecordKind; id: number; name: string }): Promise<void> {
  return noteChanges(tx, userId, kind, id, [{ field: 'record', before: '', after: `created as ${name}` }]);
}

/** What differs between two states of a record's texts. */
export function changesBetween(before: Record<string, string>, after: Record<string, string>): FieldChange[] {
  const fields = new Set([...Object.keys(before), ...Object.keys(after)]);
  return [...fields]
    .map((field) => ({ field, before: before[field] ?? '', after: after[field] ?? '' }))
    .filter((item) => item.before !== item.after);
}
