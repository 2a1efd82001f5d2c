import { notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import { namesOf, recordName } from '../base/db/recordNames';
import type { Trial, TrialMadeRow, TrialRow, trialQuery, TrialSummary } from '@fulvet/contract';
import type { CompiledRulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { z } from 'zod';
import type { Tx } from '../base/db/database';
import { emailRows } from '../emails/emailRows';

interface Row {
  [column: string]: unknown;
  id: number;
  name: string;
  by: string | null;
  created_at: string;
  base_version: number;
  since: string | null;
  mailboxes: string[];
  state: Trial['state'];
  done: number;
  total: number;
  message: string;
  summary: TrialSummary | null;
  is_draft: boolean;
  without_made: boolean;
  again: number;
  not_again: number;
}

export async function loadTrials(tx: Tx, where: SQL): Promise<Trial[]> {
  const { rows } =
    await tx.execute<Row>(sql`SELECT t.id, t.name, u.name AS by, t.created_at, t.base_version, t.since, t.mailboxes, t.state, t.done, t.total, t.message, t.summary,
      (t.document = (SELECT d.document FROM rulebook_draft d)) IS TRUE AS is_draft, t.without_made, m.again, m.not_again
    FROM trials t LEFT JOIN users u ON u.id = t.user_id
      CROSS JOIN LATERAL (SELECT (count(*) FILTER (WHERE again))::int AS again, (count(*) FILTER (WHERE NOT again))::int AS not_again FROM trial_made WHERE trial_id = t.id) m WHERE ${where} ORDER BY t.id DESC LIMIT 50`);
  return Promise.all(rows.map((row) => asTrial(tx, row)));
}

export async function loadTrial(tx: Tx, id: number): Promise<Trial | Refusal> {
  const [trial] = await loadTrials(tx, sql`t.id = ${id}`);
  if (!trial) return notFound('trial');
  return trial;
}

async function asTrial(tx: Tx, row: Row): Promise<Trial> {
  const names = await namesOf(tx, row.summary?.records.map((record) => record.key) ?? []);
  return {
    id: row.id,
    name: row.name,
    by: row.by,
    at: new Date(row.created_at).toISOString(),
    baseVersion: row.base_version,
    since: row.since === null ? null : new Date(row.since).toISOString(),
    mailboxes: row.mailboxes,
    withoutMade: row.without_made,
    made: row.without_made && row.state === 'done' ? { again: row.again, notAgain: row.not_again } : null,
    state: row.state,
    done: row.done,
    total: row.total,
    message: row.message,
    summary: row.summary && {
      ...row.summary,
      records: row.summary.records.map((record) => ({ ...record, name: names.get(record.key) ?? 'a record that is gone' })),
    },
    isDraft: row.is_draft,
  };
}

/** The records that mail created and that the draft would not create: those with the most emails first. */
export async function trialMade(
  tx: Tx,
  trialId: number,
  { offset, limit }: { offset: number; limit: number },
): Promise<{ records: TrialMadeRow[]; total: number }> {
  const kind = sql`m.kind`;
  const { rows } = await tx.execute<TrialMadeRow & { total: number }>(sql`
    WITH lost AS (SELECT key, count(*)::int AS emails FROM trial_rows r, unnest(r.lost) AS key WHERE r.trial_id = ${trialId} GROUP BY key)
    SELECT m.kind || ':' || m.record_id AS key, coalesce(${recordName(kind, sql`m.record_id`)}, 'a record that is gone') AS name,
      coalesce((SELECT min(address) FROM person_addresses a WHERE a.kind = ${kind} AND a.person_id = m.record_id), (SELECT min(domain) FROM account_domains a WHERE ${kind} = 'account' AND a.account_id = m.record_id), '') AS via,
      coalesce(l.emails, 0) AS emails, (count(*) OVER ())::int AS total
    FROM trial_made m LEFT JOIN lost l ON l.key = m.kind || ':' || m.record_id
    WHERE m.trial_id = ${trialId} AND NOT m.again ORDER BY emails DESC, m.kind, m.record_id LIMIT ${limit} OFFSET ${offset}`);
  return { records: rows.map(({ total: _, ...row }) => row), total: rows[0]?.total ?? 0 };
}

/** The emails behind a number of a trial, newest first. */
export async function trialRows(
  tx: Tx,
  trialId: number,
  query: z.output<typeof trialQuery>,
  rulebook: CompiledRulebook,
): Promise<{ rows: TrialRow[]; total: number }> {
  const where = sql.join(
    [
      sql`r.trial_id = ${trialId}`,
      ...(query.before ? [sql`coalesce(r.outcome_before, 'undecided') = ${query.before}`] : []),
      ...(query.after ? [sql`r.outcome_after = ${query.after}`] : []),
      ...(query.stop ? [sql`r.stop = ${query.stop}`] : []),
      ...(query.record ? [sql`(${query.record} = ANY(r.won) OR ${query.record} = ANY(r.lost))`] : []),
      ...(query.seen ? [sql`r.seen = ${query.seen}`] : []),
    ],
    sql` AND `,
  );
  const { rows } = await tx.execute<{
    email_id: number;
    outcome_before: TrialRow['outcomeBefore'];
    outcome_after: TrialRow['outcomeAfter'];
    visibility_before: TrialRow['visibilityBefore'];
    visibility_after: TrialRow['visibilityAfter'];
    seen: TrialRow['seen'];
    stop: string | null;
    won: string[];
    lost: string[];
  }>(
    sql`SELECT r.* FROM trial_rows r JOIN emails e ON e.id = r.email_id WHERE ${where} ORDER BY e.sent_at DESC, e.id DESC LIMIT ${query.limit} OFFSET ${query.offset}`,
  );
  const counted = await tx.execute<{ total: number }>(sql`SELECT count(*)::int AS total FROM trial_rows r WHERE ${where}`);
  const emails = new Map(
    (
      await emailRows(
        tx,
        rows.map((row) => row.email_id),
        rulebook,
      )
    ).map((emailRow) => [emailRow.id, emailRow]),
  );
  const names = await namesOf(
    tx,
    [...new Set(rows.flatMap((row) => [...row.won, ...row.lost]))].filter((key) => !key.includes(':-')),
  );
  const named = (keys: readonly string[]): string[] => keys.map((key) => names.get(key) ?? `a new ${key.slice(0, key.indexOf(':'))}`);
  return {
    rows: rows.flatMap((row): TrialRow[] => {
      const email = emails.get(row.email_id);
      if (!email) return [];
      return [
        {
          email,
          outcomeBefore: row.outcome_before,
          outcomeAfter: row.outcome_after,
          visibilityBefore: row.visibility_before,
          visibilityAfter: row.visibility_after,
          seen: row.seen,
          stop: row.stop,
          won: named(row.won),
          lost: named(row.lost),
        },
      ];
    }),
    total: counted.rows[0]?.total ?? 0,
  };
}
