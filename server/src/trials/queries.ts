import { idRow, json, moment, rowsOf } from '../base/db/rows';
import { outcome } from '@fulvet/contract';
import { notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import { namesOf, recordName } from '../base/db/recordNames';
import type { Trial, TrialMadeRow, TrialRow, trialQuery, TrialSummary } from '@fulvet/contract';
import type { CompiledRulebook, Docket } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { z } from 'zod';
import type { Tx } from '../base/db/database';
import { emailRows } from '../emails/emailRows';

const trialRow = z.object({
  id: z.number(),
  name: z.string(),
  by: z.string().nullable(),
  created_at: moment,
  base_version: z.number(),
  since: moment.nullable(),
  mailboxes: z.array(z.string()),
  state: z.enum(['failed', 'queued', 'running', 'done', 'cancelled']),
  done: z.number(),
  total: z.number(),
  message: z.string(),
  summary: json<TrialSummary>().nullable(),
  is_draft: z.boolean(),
  without_made: z.boolean(),
  again: z.number(),
  not_again: z.number(),
});
type ListedTrial = z.infer<typeof trialRow>;

/** The newest trials. */
export const loadTrials = (tx: Tx): Promise<Trial[]> => trialsWhere(tx, sql`true`);

async function trialsWhere(tx: Tx, where: SQL): Promise<Trial[]> {
  const rows = await rowsOf(
    tx,
    trialRow,
    sql`SELECT t.id, t.name, u.name AS by, w.created_at, t.base_version, t.since, t.mailboxes, w.state, w.done, w.total, w.message, t.summary,
      (t.document = (SELECT d.document FROM rulebook_draft d)) IS TRUE AS is_draft, t.without_made, m.again, m.not_again
    FROM trials t JOIN work w ON w.id = t.work_id LEFT JOIN users u ON u.id = t.user_id
      CROSS JOIN LATERAL (SELECT (count(*) FILTER (WHERE again))::int AS again, (count(*) FILTER (WHERE NOT again))::int AS not_again FROM trial_made WHERE trial_id = t.id) m WHERE ${where} ORDER BY t.id DESC LIMIT 50`,
  );
  return Promise.all(rows.map((row) => asTrial(tx, row)));
}

export async function loadTrial(tx: Tx, id: number): Promise<Trial | Refusal> {
  const [trial] = await trialsWhere(tx, sql`t.id = ${id}`);
  if (!trial) return notFound('trial');
  return trial;
}

async function asTrial(tx: Tx, row: ListedTrial): Promise<Trial> {
  const names = await namesOf(tx, row.summary?.records.map((record) => record.key) ?? []);
  return {
    id: row.id,
    name: row.name,
    by: row.by,
    at: row.created_at,
    baseVersion: row.base_version,
    since: row.since,
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

const createdRow = z.object({ key: z.string(), name: z.string(), via: z.string(), emails: z.number(), total: z.number() });

/** The records that mail created and that the draft would not create: those with the most emails first. */
export async function trialMade(
  tx: Tx,
  trialId: number,
  { offset, limit }: { offset: number; limit: number },
): Promise<{ records: TrialMadeRow[]; total: number }> {
  const kind = sql`m.kind`;
  const rows = await rowsOf(
    tx,
    createdRow,
    sql`
    WITH lost AS (SELECT key, count(*)::int AS emails FROM trial_rows r, unnest(r.lost) AS key WHERE r.trial_id = ${trialId} GROUP BY key)
    SELECT m.kind || ':' || m.record_id AS key, coalesce(${recordName(kind, sql`m.record_id`)}, 'a record that is gone') AS name,
      coalesce((SELECT min(address) FROM person_addresses a WHERE a.kind = ${kind} AND a.person_id = m.record_id), (SELECT min(domain) FROM account_domains a WHERE ${kind} = 'account' AND a.account_id = m.record_id), '') AS via,
      coalesce(l.emails, 0) AS emails, (count(*) OVER ())::int AS total
    FROM trial_made m LEFT JOIN lost l ON l.key = m.kind || ':' || m.record_id
    WHERE m.trial_id = ${trialId} AND NOT m.again ORDER BY emails DESC, m.kind, m.record_id LIMIT ${limit} OFFSET ${offset}`,
  );
  return { records: rows.map(({ total: _, ...row }) => row), total: rows[0]?.total ?? 0 };
}

const comparedRow = z.object({
  email_id: z.number(),
  outcome_before: outcome.nullable(),
  outcome_after: outcome,
  visibility_before: z.string(),
  visibility_after: z.string(),
  seen: z.enum(['newly', 'no longer']).nullable(),
  step: z.string().nullable(),
  won: z.array(z.string()),
  lost: z.array(z.string()),
});

const totalRow = z.object({ total: z.number() });

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
      ...(query.step ? [sql`r.step = ${query.step}`] : []),
      ...(query.record ? [sql`(${query.record} = ANY(r.won) OR ${query.record} = ANY(r.lost))`] : []),
      ...(query.seen ? [sql`r.seen = ${query.seen}`] : []),
    ],
    sql` AND `,
  );
  const rows = await rowsOf(
    tx,
    comparedRow,
    sql`SELECT r.* FROM trial_rows r JOIN emails e ON e.id = r.email_id WHERE ${where} ORDER BY e.sent_at DESC, e.id DESC LIMIT ${query.limit} OFFSET ${query.offset}`,
  );
  const counted = await rowsOf(tx, totalRow, sql`SELECT count(*)::int AS total FROM trial_rows r WHERE ${where}`);
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
          step: row.step,
          won: named(row.won),
          lost: named(row.lost),
        },
      ];
    }),
    total: counted[0]?.total ?? 0,
  };
}

/** Which past mail a trial decides, and how. */
export interface TrialOrder {
  name: string;
  userId: number;
  /** Rules as JSON. */
  document: string;
  baseVersion: number;
  /** Only emails of so many days. */
  days: number | null;
  /** Only these mailboxes, or all. */
  mailboxes: readonly string[];
  withoutMade: boolean;
}

/** @returns its id */
export async function insertTrial(tx: Tx, workId: number, order: TrialOrder): Promise<number> {
  const since = order.days === null ? null : sql`now() - make_interval(days => ${order.days})`;
  const [row] = await rowsOf(
    tx,
    idRow,
    sql`INSERT INTO trials (work_id, name, user_id, document, base_version, since, mailboxes, without_made)
    VALUES (${workId}, ${order.name}, ${order.userId}, ${order.document}::jsonb, ${order.baseVersion}, ${since}, ${sql.param([...order.mailboxes])}::text[], ${order.withoutMade}) RETURNING id`,
  );
  return row?.id ?? 0;
}

const decidedTwiceRow = z.object({ step: z.string().nullable(), before: json<Docket>().nullable(), after: json<Docket>() });

/** How an email of a trial was decided, and how the trial decides it; nothing where the reader may not read it. */
export async function decidedTwice(tx: Tx, trialId: number, emailId: number): Promise<z.output<typeof decidedTwiceRow> | undefined> {
  const [row] = await rowsOf(
    tx,
    decidedTwiceRow,
    sql`
    SELECT r.step, coalesce(k.docket, e.steps) AS before, d.docket AS after FROM trial_rows r JOIN emails e ON e.id = r.email_id
    JOIN trial_dockets d ON d.trial_id = r.trial_id AND d.email_id = r.email_id LEFT JOIN dockets k ON k.email_id = r.email_id
    WHERE r.trial_id = ${trialId} AND r.email_id = ${emailId}`,
  );
  return row;
}
