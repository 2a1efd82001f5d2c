import { z } from 'zod';
import { moment, rowsOf } from '../base/db/rows';
import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';

const repairRow = z.object({
  id: z.number(),
  at: moment,
  by: z.string(),
  summary: z.string(),
  emails: z.number(),
  undone: z.boolean(),
  mine: z.boolean(),
});

/** The newest repairs that a member may know of, of all emails or of those in one email's conversation. */
export function repairsAbout(
  tx: Tx,
  userId: number,
  { email, limit }: { email?: number | undefined; limit: number },
): Promise<z.output<typeof repairRow>[]> {
  const about =
    email === undefined
      ? sql`true`
      : sql`r.id IN (SELECT p.repair_id FROM pins p JOIN emails o ON o.id = p.email_id JOIN emails e ON e.conversation_id = o.conversation_id WHERE e.id = ${email} AND (p.email_id = e.id OR p.reach <> 'email'))`;
  return rowsOf(
    tx,
    repairRow,
    sql`
    SELECT r.id, r.at, u.name AS by, r.summary, r.emails, r.undone_at IS NOT NULL AS undone, r.user_id = ${userId} AS mine FROM repairs r JOIN users u ON u.id = r.user_id
    WHERE ${about} ORDER BY r.id DESC LIMIT ${limit}`,
  );
}

const countRow = z.object({ n: z.number() });

/** How many of these emails the acting member may read. */
export async function readableOf(tx: Tx, emails: readonly number[]): Promise<number> {
  const [row] = await rowsOf(
    tx,
    countRow,
    sql`SELECT count(*)::int AS n FROM email_contents WHERE email_id = ANY(${sql.param([...emails])}::bigint[])`,
  );
  return row?.n ?? 0;
}

/** Passes emails of the sorting desk on. @returns how many */
export async function insertPasses(tx: Tx, emails: readonly number[], to: number, by: number): Promise<number> {
  const { rowCount } = await tx.execute(sql`
    INSERT INTO desk_passes (email_id, to_user_id, by_user_id) SELECT id, ${to}, ${by} FROM unnest(${sql.param([...emails])}::bigint[]) AS n(id)
    ON CONFLICT (email_id) DO UPDATE SET to_user_id = excluded.to_user_id, by_user_id = excluded.by_user_id, at = now()`);
  return rowCount ?? 0;
}

/** Of emails `e`, with what was passed on as `p`: those about which a member has to decide. */
export const waitsFor = (userId: number): SQL =>
  sql`(${userId} = ANY(e.owner_ids) AND (p.to_user_id IS NULL OR p.to_user_id = ${userId}) OR p.to_user_id = ${userId})`;

/** How many questions wait: for a member, or all that the acting member may know of. Emails that ask the same are one, as at the sorting desk. */
export async function countQuestions(tx: Tx, userId: number | null): Promise<number> {
  const [row] = await rowsOf(
    tx,
    countRow,
    sql`SELECT count(DISTINCT (q.asked ->> 'about', CASE WHEN q.asked ->> 'about' = 'person' THEN q.asked ->> 'domain' ELSE e.conversation_id::text END,
        (SELECT string_agg(x ->> 'id', ',' ORDER BY x ->> 'id') FROM jsonb_array_elements(q.asked -> 'candidates') x)))::int AS n
      FROM emails e JOIN dockets k ON k.email_id = e.id LEFT JOIN desk_passes p ON p.email_id = e.id CROSS JOIN LATERAL (SELECT k.questions -> 0 AS asked) q
      WHERE e.outcome = 'waiting' AND q.asked IS NOT NULL AND ${userId === null ? sql`true` : waitsFor(userId)}`,
  );
  return row?.n ?? 0;
}
