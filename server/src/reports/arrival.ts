import type { Arrival, RecordKind, User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { isDamaged } from '../emails/damagedSources';

/** What wants a person on arriving: what came since the last visit, what waits, who is not answered. */
export async function arrivalOf(tx: Tx, user: User): Promise<Arrival> {
  const visit = await tx.execute<{ since: string | null }>(
    sql`SELECT coalesce(last_visit_at, (SELECT max(sent_at) - interval '7 days' FROM emails WHERE sent_at <= now())) AS since FROM users WHERE id = ${user.id}`,
  );
  const since = visit.rows[0]?.since ?? null;
  const from = sql`coalesce(${since === null ? null : new Date(since).toISOString()}::timestamptz, now() - interval '7 days')`;
  const outcomes = await tx.execute<{ outcome: string; count: number }>(
    sql`SELECT coalesce(outcome, 'undecided') AS outcome, count(*)::int AS count FROM emails WHERE sent_at > ${from} AND sent_at <= now() + interval '1 day' GROUP BY 1`,
  );
  const totals = await tx.execute<{
    contacts: number;
    accounts: number;
    waiting: number;
    problems: number;
    damaged: number;
    filed: number;
    imports: number;
    undecided: number;
    records: number;
    emails: number;
  }>(sql`SELECT
    (SELECT count(*)::int FROM contacts c JOIN emails e ON e.id = c.origin_email_id WHERE e.sent_at > ${from}) AS contacts, (SELECT count(*)::int FROM accounts a JOIN emails e ON e.id = a.origin_email_id WHERE e.sent_at > ${from}) AS accounts,
    (SELECT count(*)::int FROM emails WHERE outcome = 'waiting') AS waiting, (SELECT count(*)::int FROM emails WHERE problems <> '[]'::jsonb) AS problems,
    (SELECT count(*)::int FROM emails e WHERE ${isDamaged}) AS damaged,
    (SELECT count(*)::int FROM emails WHERE outcome IN ('filed', 'waiting') AND ${user.id}::bigint = ANY(owner_ids) AND sent_at > ${from}) AS filed,
    (SELECT count(*)::int FROM imports WHERE state IN ('queued', 'running')) AS imports, (SELECT count(*)::int FROM emails WHERE decided_at IS NULL) AS undecided,
    (SELECT (SELECT count(*) FROM contacts) + (SELECT count(*) FROM leads) + (SELECT count(*) FROM accounts) + (SELECT count(*) FROM deals))::int AS records, (SELECT count(*)::int FROM emails) AS emails`);
  const row = totals.rows[0];
  return {
    since: since === null ? null : new Date(since).toISOString(),
    came: outcomes.rows.reduce((sum, item) => sum + item.count, 0),
    byOutcome: Object.fromEntries(outcomes.rows.map((item) => [item.outcome, item.count])),
    newContacts: row?.contacts ?? 0,
    newAccounts: row?.accounts ?? 0,
    waiting: row?.waiting ?? 0,
    problems: row?.problems ?? 0,
    damaged: row?.damaged ?? 0,
    filedForMe: row?.filed ?? 0,
    runningImports: row?.imports ?? 0,
    undecided: row?.undecided ?? 0,
    records: row?.records ?? 0,
    emails: row?.emails ?? 0,
    quietestStops: [],
    unanswered: await unanswered(tx, user),
  };
}

/** Conversations of the user's own mailbox whose last email, within three weeks, came from a person outside and is not answered. */
async function unanswered(tx: Tx, user: User): Promise<Arrival['unanswered']> {
  const { rows } = await tx.execute<{
    id: number;
    sent_at: string;
    subject: string;
    sender: string | null;
    record: { kind: RecordKind; id: number; name: string } | null;
  }>(sql`
    SELECT e.id, e.sent_at, c.subject, (SELECT coalesce(nullif(p.name, ''), p.address) FROM participants p WHERE p.email_id = e.id AND p.role = 'from' LIMIT 1) AS sender,
      (SELECT json_build_object('kind', f.kind, 'id', f.record_id, 'name', coalesce(a.name, k.name, l.name)) FROM filings f LEFT JOIN accounts a ON f.kind = 'account' AND a.id = f.record_id LEFT JOIN contacts k ON f.kind = 'contact' AND k.id = f.record_id LEFT JOIN leads l ON f.kind = 'lead' AND l.id = f.record_id
        WHERE f.email_id = e.id AND f.kind <> 'deal' ORDER BY f.kind LIMIT 1) AS record
    FROM emails e JOIN email_contents c ON c.email_id = e.id
    WHERE ${user.id}::bigint = ANY(e.owner_ids) AND e.direction = 'received' AND e.mail_class = 'person' AND e.outcome IN ('filed', 'waiting') AND e.sent_at BETWEEN now() - interval '21 days' AND now()
      AND EXISTS (SELECT FROM participants p JOIN users u ON lower(u.email) = p.address AND u.id = ${user.id} WHERE p.email_id = e.id AND p.role = 'to')
      AND NOT EXISTS (SELECT FROM emails later WHERE later.conversation_id = e.conversation_id AND later.sent_at > e.sent_at)
    ORDER BY e.sent_at DESC LIMIT 8`);
  return rows.map((row) => ({
    emailId: row.id,
    at: new Date(row.sent_at).toISOString(),
    subject: row.subject,
    from: row.sender ?? '',
    record: row.record,
  }));
}
