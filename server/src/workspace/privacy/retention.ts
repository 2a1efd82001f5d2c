import { retention } from '../../base/db/schema';
import { z } from 'zod';
import { idRow, moment, rowsOf } from '../../base/db/rows';
import { retentionKind } from '@fulvet/contract';
import { notFound } from '../../base/refusal';
import type { Refusal } from '../../base/refusal';
import type { RetentionKind, RetentionRule, User } from '@fulvet/contract';
import { sql, eq } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { writeDown } from '../../base/audit';
import type { Sources } from '../../base/reading/sources';
import type { Database, Tx } from '../../base/db/database';
import { takeMailLock } from '../../base/db/mailLock';
import { eraseSources } from '../../emails/store/eraseSources';

const BATCH = 500;

/** Emails of a kind that are older than so many days: a condition on `e`. What a person filed by hand under something else stays with that. */
function outdated(kind: RetentionKind, days: number): SQL {
  const before = sql`now() - make_interval(days => ${days})`;
  if (kind === 'keptOut') return sql`e.outcome = 'kept out' AND e.sent_at < ${before}`;
  if (kind === 'unfiled')
    return sql`e.outcome = 'unfiled' AND e.sent_at < ${before} AND NOT EXISTS (SELECT FROM pins p WHERE p.email_id = e.id AND p.released_at IS NULL)`;
  // Under closed deals alone; what stands under an open one as well is still of use.
  return sql`EXISTS (SELECT FROM filings f JOIN deals d ON f.kind = 'deal' AND d.id = f.record_id WHERE f.email_id = e.id AND NOT d.open AND d.closed_on < (${before})::date)
    AND NOT EXISTS (SELECT FROM filings f JOIN deals d ON f.kind = 'deal' AND d.id = f.record_id WHERE f.email_id = e.id AND (d.open OR d.closed_on IS NULL OR d.closed_on >= (${before})::date))`;
}

const emailRow = z.object({ emails: z.number(), oldest: moment.nullable() });

/** What would go now, of what the acting user may know of. */
export async function wouldGo(tx: Tx, kind: RetentionKind, days: number | null): Promise<Pick<RetentionRule, 'wouldGo' | 'oldest'>> {
  if (days === null) return { wouldGo: 0, oldest: null };
  const rows = await rowsOf(
    tx,
    emailRow,
    sql`SELECT count(*)::int AS emails, min(e.sent_at) AS oldest FROM emails e WHERE ${outdated(kind, days)}`,
  );
  const [row] = rows;
  return { wouldGo: row?.emails ?? 0, oldest: row?.oldest ? row.oldest : null };
}

const retentionRow = z.object({ kind: retentionKind, days: z.number().nullable(), last_run_at: moment.nullable() });

export async function retentionRules(tx: Tx): Promise<RetentionRule[]> {
  const rows = await rowsOf(
    tx,
    retentionRow,
    sql`SELECT kind, days, last_run_at FROM retention ORDER BY array_position(ARRAY['keptOut', 'unfiled', 'closedDeals'], kind)`,
  );
  const rules: RetentionRule[] = [];
  for (const row of rows)
    rules.push({
      kind: row.kind,
      days: row.days,
      lastRunAt: row.last_run_at,
      ...(await wouldGo(tx, row.kind, row.days)),
    });
  return rules;
}

/** Says how long a kind of mail is kept; null: for ever. */
export function setRetention(
  database: Database,
  user: User,
  { kind, days }: Pick<RetentionRule, 'kind' | 'days'>,
): Promise<RetentionRule | Refusal> {
  return database.as(user.id, async (tx) => {
    await tx
      .update(retention)
      .set({ days, changedBy: user.id, changedAt: sql`now()` })
      .where(eq(retention.kind, kind));
    const kept = days === null ? 'kept for ever' : `kept for ${days} days`;
    await writeDown(tx, user, { kind: 'retention', about: `${KIND_WORDS[kind]}: ${kept}` });
    return (await retentionRules(tx)).find((rule) => rule.kind === kind) ?? notFound('kind of mail');
  });
}

const daysRow = z.object({ kind: retentionKind, days: z.number() });

/** Lets go of what is kept no longer, in batches, sources and all. @returns how many emails went */
export async function letGo(database: Database, blobs: Sources, by: { id: number; name: string } | null): Promise<number> {
  const rules = await rowsOf(database.worker, daysRow, sql`SELECT kind, days FROM retention WHERE days IS NOT NULL`);
  let all = 0;
  for (const { kind, days } of rules) {
    let gone = 0;
    for (;;) {
      const { places, count } = await database.work(async (tx) => {
        await takeMailLock(tx);
        const rows = await rowsOf(tx, idRow, sql`SELECT e.id FROM emails e WHERE ${outdated(kind, days)} ORDER BY e.id LIMIT ${BATCH}`);
        const ids = rows.map((row) => row.id);
        const places = await eraseSources(tx, ids);
        await tx.execute(sql`DELETE FROM emails WHERE id = ANY(${sql.param(ids)}::bigint[])`);
        return { places, count: rows.length };
      });
      await blobs.erase(places);
      gone += count;
      if (count < BATCH) break;
    }
    all += gone;
    await database.worker
      .update(retention)
      .set({ lastRunAt: sql`now()` })
      .where(eq(retention.kind, kind));
    if (gone > 0)
      await writeDown(database.worker, by, {
        kind: 'retention',
        about: `deleted ${gone} emails: ${KIND_WORDS[kind]} older than ${days} days`,
      });
  }
  return all;
}

const KIND_WORDS: Record<RetentionKind, string> = {
  keptOut: 'facts of kept-out mail',
  unfiled: 'unfiled mail',
  closedDeals: 'mail of closed deals',
};
