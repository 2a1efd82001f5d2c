import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import type { LineCounts, User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { countQuestions } from '../repairs/queries';

const lineRow = z.object({
  came: z.number(),
  keptOut: z.number(),
  leftToOwner: z.number(),
  unfiled: z.number(),
  waiting: z.number(),
  filed: z.number(),
  created: z.number(),
  shared: z.number(),
  undecided: z.number(),
  mailboxes: z.number(),
  mailboxTrouble: z.number(),
  mailboxBacklog: z.number(),
  histories: z.number(),
});

/** What the five steps did in the last 30 days, as far as the acting member may know, and the questions that wait for them. */
export async function lineCounts(tx: Tx, user: User): Promise<LineCounts> {
  const rows = await rowsOf(
    tx,
    lineRow,
    sql`
    SELECT count(*)::int AS came, count(*) FILTER (WHERE outcome = 'kept out')::int AS "keptOut", count(*) FILTER (WHERE outcome = 'unfiled' AND steps -> 1 ->> 'verdict' = 'left to its owner')::int AS "leftToOwner",
      count(*) FILTER (WHERE outcome = 'unfiled' AND steps -> 1 ->> 'verdict' <> 'left to its owner')::int AS unfiled, count(*) FILTER (WHERE outcome = 'waiting')::int AS waiting, count(*) FILTER (WHERE outcome = 'filed')::int AS filed,
      count(*) FILTER (WHERE outcome IS NULL)::int AS undecided, count(*) FILTER (WHERE visibility = 'everyone')::int AS shared,
      (SELECT count(*)::int FROM filings f JOIN emails e2 ON e2.id = f.email_id WHERE f.created AND e2.sent_at > now() - interval '30 days' AND e2.sent_at <= now() + interval '1 day') AS created, (SELECT count(*)::int FROM mailboxes) AS mailboxes,
      (SELECT count(*)::int FROM mailboxes m WHERE fulvet_looks_after(m.id) AND (m.state = 'stopped' OR m.state = 'running' AND (m.problem IS NOT NULL OR m.last_contact_at < now() - interval '3 minutes'))) AS "mailboxTrouble",
      (SELECT coalesce(sum(m.backlog), 0)::int FROM mailboxes m WHERE fulvet_looks_after(m.id) AND m.state = 'running') AS "mailboxBacklog",
      (SELECT count(*)::int FROM (SELECT DISTINCT f.kind, f.record_id FROM filings f JOIN emails e3 ON e3.id = f.email_id WHERE e3.sent_at > now() - interval '30 days' AND e3.sent_at <= now() + interval '1 day') h) AS histories
    FROM emails WHERE sent_at > now() - interval '30 days' AND sent_at <= now() + interval '1 day' AND mail_class <> 'event'`,
  );
  const [row] = rows;
  if (!row) throw new Error('an aggregate gives one row');
  return { ...row, questions: await countQuestions(tx, user.role === 'admin' ? null : user.id) };
}
