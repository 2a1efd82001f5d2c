import { z } from 'zod';
import { moment, rowsOf } from '../base/db/rows';
import { MOST_COUNTED } from '@fulvet/contract';
import type { Arrival, User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { isUnanswered } from '../records/unanswered';
import type { Tx } from '../base/db/database';
import { isDamaged } from '../emails/damagedSources';
import { dueReminders } from '../writing/reminders';
import { runsThatWait } from '../writing/series/queries';
import { tasksForToday } from '../agenda/listTasks';
import { recordBeside, recordOfEmail } from './recordOfEmail';
import { upcomingMeetings } from './upcomingMeetings';

const emailRow = z.object({ since: z.string().nullable() });

const arrivalRow = z.object({ outcome: z.string(), count: z.number() });

const contactRow = z.object({
  contacts: z.number(),
  accounts: z.number(),
  waiting: z.number(),
  problems: z.number(),
  damaged: z.number(),
  filed: z.number(),
  imports: z.number(),
  undecided: z.number(),
  records: z.number(),
  emails: z.number(),
});

/** What wants a person on arriving: what came since the last visit, what waits, who is not answered. */
export async function arrivalOf(tx: Tx, user: User): Promise<Arrival> {
  const visit = await rowsOf(
    tx,
    emailRow,
    sql`SELECT coalesce(last_visit_at, (SELECT max(sent_at) - interval '7 days' FROM emails WHERE sent_at <= now())) AS since FROM users WHERE id = ${user.id}`,
  );
  const since = visit[0]?.since ?? null;
  const from = sql`coalesce(${since === null ? null : new Date(since).toISOString()}::timestamptz, now() - interval '7 days')`;
  const outcomes = await rowsOf(
    tx,
    arrivalRow,
    sql`SELECT coalesce(outcome, 'undecided') AS outcome, count(*)::int AS count FROM emails WHERE sent_at > ${from} AND sent_at <= now() + interval '1 day' AND mail_class <> 'event' GROUP BY 1 ORDER BY 1`,
  );
  const totals = await rowsOf(
    tx,
    contactRow,
    sql`SELECT
    (SELECT count(*)::int FROM contacts c JOIN emails e ON e.id = c.origin_email_id WHERE e.sent_at > ${from}) AS contacts, (SELECT count(*)::int FROM accounts a JOIN emails e ON e.id = a.origin_email_id WHERE e.sent_at > ${from}) AS accounts,
    (SELECT count(*)::int FROM emails WHERE outcome = 'waiting') AS waiting, (SELECT count(*)::int FROM emails WHERE problems <> '[]'::jsonb) AS problems,
    (SELECT count(*)::int FROM emails e WHERE ${isDamaged}) AS damaged,
    (SELECT count(*)::int FROM emails WHERE outcome IN ('filed', 'waiting') AND ${user.id}::bigint = ANY(owner_ids) AND sent_at > ${from} AND mail_class <> 'event') AS filed,
    (SELECT count(*)::int FROM work WHERE kind = 'import' AND state IN ('queued', 'running')) AS imports, (SELECT count(*)::int FROM emails WHERE decided_at IS NULL) AS undecided,
    (SELECT (SELECT count(*) FROM contacts) + (SELECT count(*) FROM leads) + (SELECT count(*) FROM accounts) + (SELECT count(*) FROM deals))::int AS records, (SELECT count(*)::int FROM (SELECT FROM emails LIMIT ${MOST_COUNTED}) n) AS emails`,
  );
  const row = totals[0];
  return {
    since: since === null ? null : new Date(since).toISOString(),
    came: outcomes.reduce((sum, item) => sum + item.count, 0),
    byOutcome: Object.fromEntries(outcomes.map((item) => [item.outcome, item.count])),
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
    unanswered: await unanswered(tx, user),
    meetings: await upcomingMeetings(tx, user),
    reminders: await dueReminders(tx),
    tasks: await tasksForToday(tx, user),
    series: await runsThatWait(tx),
  };
}

const participantRow = z.object({
  id: z.number(),
  sent_at: moment,
  subject: z.string(),
  sender: z.string().nullable(),
  record: recordBeside,
});

/** The home page reminds of what is not older. */
const HOME_DAYS = 21;

/** Conversations of the user's own mailbox whose last email, to the user, came from an external person and is not answered. */
async function unanswered(tx: Tx, user: User): Promise<Arrival['unanswered']> {
  const rows = await rowsOf(
    tx,
    participantRow,
    sql`
    SELECT e.id, e.sent_at, c.subject, (SELECT coalesce(nullif(p.name, ''), p.address) FROM participants p WHERE p.email_id = e.id AND p.role = 'from' LIMIT 1) AS sender,
      ${recordOfEmail(sql`e.id`)} AS record
    FROM emails e JOIN email_contents c ON c.email_id = e.id
    WHERE ${user.id}::bigint = ANY(e.owner_ids) AND e.outcome IN ('filed', 'waiting') AND ${isUnanswered(sql`e`, HOME_DAYS)}
      AND EXISTS (SELECT FROM participants p WHERE p.email_id = e.id AND p.role = 'to' AND (p.address = (SELECT lower(u.email) FROM users u WHERE u.id = ${user.id})
        OR EXISTS (SELECT FROM mailboxes m WHERE m.owner_id = ${user.id} AND m.kind IN ('person', 'imported') AND (m.address = p.address OR p.address = ANY(m.aliases)))))
    ORDER BY e.sent_at DESC LIMIT 8`,
  );
  return rows.map((row) => ({
    emailId: row.id,
    at: row.sent_at,
    subject: row.subject,
    from: row.sender ?? '',
    record: row.record,
  }));
}
