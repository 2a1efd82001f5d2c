import { z } from 'zod';
import { json, rowsOf } from '../base/db/rows';
import { direction, outcome } from '@fulvet/contract';
import { takeOffSummary } from '@fulvet/core';
import type { CountedEmail, CountedGroup, Docket, TrialSummary } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';

const changedRow = z.object({
  trial_id: z.number(),
  direction: direction.nullable(),
  outcome_before: outcome.nullable(),
  outcome_after: outcome,
  seen: z.enum(['newly', 'no longer']).nullable(),
  won: z.array(z.string()),
  lost: z.array(z.string()),
  docket: json<Docket>().nullable(),
});
type ChangedRow = z.infer<typeof changedRow>;

const unchangedRow = z.object({
  trial_id: z.number(),
  outcome: outcome.nullable(),
  direction: direction.nullable(),
  steps: json<CountedGroup['steps']>(),
  emails: z.number(),
});
type UnchangedRow = z.infer<typeof unchangedRow>;

const trialRow = z.object({ id: z.number(), summary: json<TrialSummary>() });

/** Takes emails out of the trials that counted them, as if they had never been there: what is sealed shows in no sum. To be called within the mail lock. */
export async function takeOffTrials(tx: Tx, emailIds: readonly number[]): Promise<void> {
  if (emailIds.length === 0) return;
  const trials = await rowsOf(
    tx,
    trialRow,
    sql`SELECT t.id, t.summary FROM trials t WHERE t.summary IS NOT NULL AND EXISTS (SELECT FROM work w WHERE w.id = t.work_id AND w.state = 'done') ORDER BY t.id FOR UPDATE OF t`,
  );
  if (trials.length === 0) return;
  const ids = sql`${sql.param([...emailIds])}::bigint[]`;
  const changed = await rowsOf(
    tx,
    changedRow,
    sql`
    WITH gone AS (DELETE FROM trial_rows WHERE email_id = ANY(${ids}) RETURNING *), dockets AS (DELETE FROM trial_dockets WHERE email_id = ANY(${ids}) RETURNING *)
    SELECT r.trial_id, e.direction, r.outcome_before, r.outcome_after, r.seen, r.won, r.lost, d.docket FROM gone r JOIN emails e ON e.id = r.email_id LEFT JOIN dockets d ON d.trial_id = r.trial_id AND d.email_id = r.email_id`,
  );
  const unchanged = await rowsOf(
    tx,
    unchangedRow,
    sql`
    WITH found AS (SELECT c.id, count(*)::int AS emails FROM trial_counted c JOIN unnest(${ids}) x(id) ON x.id = ANY(c.email_ids) GROUP BY 1)
    UPDATE trial_counted c SET email_ids = ARRAY(SELECT unnest(c.email_ids) EXCEPT SELECT unnest(${ids})) FROM found f WHERE f.id = c.id
    RETURNING c.trial_id, c.outcome, c.direction, c.steps, f.emails`,
  );
  for (const { id, summary } of trials) {
    const those = [
      ...changed.filter((row) => row.trial_id === id).map(asChanged),
      ...unchanged.filter((row) => row.trial_id === id).flatMap((row) => new Array<CountedEmail>(row.emails).fill(asUnchanged(row))),
    ];
    if (those.length === 0) continue;
    const left = JSON.stringify(takeOffSummary(summary, those));
    await tx.execute(sql`UPDATE trials SET summary = ${left}::jsonb WHERE id = ${id}`);
  }
}

function asChanged(row: ChangedRow): CountedEmail {
  return {
    outcomeBefore: row.outcome_before,
    outcomeAfter: row.outcome_after,
    direction: row.direction,
    docket: row.docket ?? [],
    difference: { seen: row.seen, won: row.won, lost: row.lost },
  };
}

function asUnchanged(row: UnchangedRow): CountedEmail {
  return {
    outcomeBefore: row.outcome,
    outcomeAfter: row.outcome ?? 'unfiled',
    direction: row.direction,
    docket: row.steps.map((entry) => ({ ...entry, evidence: [] })),
    difference: null,
  };
}
