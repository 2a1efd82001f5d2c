import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';
import type { Db, Tx } from '../base/db/database';

const MARK = JSON.stringify([
  {
    code: 'damaged',
    message:
      'The stored source of this email cannot be read. Its decision was left as it was; the source is repaired when the email is seen again in its mailbox or file.',
  },
]);

/** Whether an email `e` is marked as one whose stored source is damaged. */
export const isDamaged: SQL = sql`e.problems @> '[{"code":"damaged"}]'`;

/** The problems of an email `e` without that mark. */
export const problemsWithoutDamage: SQL = sql`(SELECT coalesce(jsonb_agg(p), '[]') FROM jsonb_array_elements(e.problems) p WHERE p ->> 'code' <> 'damaged')`;

/** Marks emails whose source cannot be read, once each. */
export async function markDamaged(db: Db | Tx, ids: readonly number[]): Promise<void> {
  if (ids.length === 0) return;
  await db.execute(
    sql`UPDATE emails e SET problems = e.problems || ${MARK}::jsonb WHERE e.id = ANY(${sql.param([...ids])}::bigint[]) AND NOT ${isDamaged}`,
  );
}

/** A copy says all that the email says, so it may stand in for a source that is lost. */
export async function repairSources(tx: Tx, copies: readonly { id: number; blob: string | null }[]): Promise<void> {
  if (copies.length === 0) return;
  await tx.execute(sql`UPDATE emails e SET blob = n.blob, decided_at = CASE WHEN e.outcome = 'kept out' THEN NULL ELSE e.decided_at END, problems = ${problemsWithoutDamage}
    FROM json_to_recordset(${JSON.stringify(copies)}::json) AS n(id bigint, blob text) WHERE e.id = n.id AND n.blob IS NOT NULL`);
}
