import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { StopReason } from '@fulvet/core';
import type { Db, Tx } from '../../base/db/database';
import { json, rowsOf } from '../../base/db/rows';

/** Why a series is not to go on. */
export interface FoundStop {
  why: StopReason;
  emailId: number | null;
}

const stopRow = z.object({ why: json<StopReason>(), email_id: z.number().nullable() });

/** Stored since, and not old: clocks of senders and of mail servers may be slow, and mail of earlier years is imported meanwhile. */
const ARRIVED = sql`e.id > run.after_email AND e.arrived_at > run.started_at - interval '1 day'`;
const NEW = sql`${ARRIVED} AND e.sent_at > run.started_at - interval '1 day'`;

/** What recurs is no new meeting when its next occurrence comes in. @param after the last email that was there before */
const isOldMeeting = (after: SQL): SQL =>
  sql`EXISTS (SELECT FROM meetings k WHERE k.uid = m.uid AND m.occurs_at IS NOT NULL AND k.email_id <= ${after})`;

/**
 * Why a series with someone is not to go on, as mail and records say it; null: nothing is against it. An answer is an email of a person that came
 * after the beginning: from them, from anyone of their account, or in a conversation of the series; or a call or the like with one of them that someone
 * logged. What is not decided yet counts, too.
 */
export async function whyStop(db: Db | Tx, runId: number): Promise<FoundStop | null> {
  const [found] = await rowsOf(
    db,
    stopRow,
    sql`
    WITH run AS (SELECT r.* FROM series_runs r WHERE r.id = ${runId}),
    person AS (SELECT a.kind, a.person_id FROM run JOIN person_addresses a ON a.address = run.address),
    own AS (SELECT run.address FROM run UNION SELECT a.address FROM person JOIN person_addresses a ON a.kind = person.kind AND a.person_id = person.person_id),
    account AS (SELECT c.account_id AS id FROM person JOIN contacts c ON person.kind = 'contact' AND c.id = person.person_id WHERE c.account_id IS NOT NULL),
    company AS (SELECT own.address FROM own UNION SELECT a.address FROM account JOIN contacts c ON c.account_id = account.id JOIN person_addresses a ON a.kind = 'contact' AND a.person_id = c.id),
    conversations AS (SELECT DISTINCT e.conversation_id FROM run JOIN series_steps s ON s.run_id = run.id JOIN emails e ON e.message_id = s.message_id),
    found AS (
      SELECT 1 AS place, 'left' AS why, NULL::bigint AS email_id FROM run JOIN users u ON u.id = run.writer_id WHERE NOT u.active
      UNION ALL SELECT 2, 'erased', NULL FROM run WHERE run.address = ''
      UNION ALL SELECT 2, 'unsubscribed', NULL FROM own JOIN unsubscribes u ON u.address = own.address
      UNION ALL SELECT 3, 'bounced', NULL FROM run JOIN series_steps s ON s.run_id = run.id JOIN outgoing o ON o.id = s.outgoing_id WHERE o.state = 'bounced'
      UNION ALL (SELECT 4, 'answered', e.id FROM run, emails e JOIN participants p ON p.email_id = e.id AND p.role = 'from'
        WHERE p.address IN (SELECT address FROM company) AND coalesce(e.direction, 'received') = 'received' AND e.mail_class = 'person' AND ${NEW} LIMIT 1)
      UNION ALL (SELECT 4, 'answered', e.id FROM run, emails e
        WHERE e.conversation_id IN (SELECT conversation_id FROM conversations) AND e.direction = 'received' AND e.mail_class = 'person' AND ${ARRIVED} LIMIT 1)
      UNION ALL (SELECT 4, 'answered', e.id FROM run, filings f JOIN emails e ON e.id = f.email_id
        WHERE f.kind = 'account' AND f.record_id IN (SELECT id FROM account) AND e.direction = 'received' AND e.mail_class = 'person' AND ${NEW} LIMIT 1)
      UNION ALL (SELECT 4, 'answered', NULL FROM run, activities act JOIN activity_records r ON r.activity_id = act.id
        WHERE act.removed_at IS NULL AND act.direction IN ('received', 'both') AND act.at > run.started_at
          AND ((r.kind, r.record_id) IN (SELECT person.kind, person.person_id FROM person) OR (r.kind = 'account' AND r.record_id IN (SELECT account.id FROM account))
            OR (r.kind = 'contact' AND r.record_id IN (SELECT c.id FROM contacts c WHERE c.account_id IN (SELECT account.id FROM account)))) LIMIT 1)
      UNION ALL (SELECT 5, 'meeting', e.id FROM run, emails e JOIN participants p ON p.email_id = e.id JOIN meetings m ON m.email_id = e.id
        WHERE p.address IN (SELECT address FROM own) AND NOT m.cancelled AND ${NEW} AND m.starts_at > run.started_at
          AND NOT ${isOldMeeting(sql`run.after_email`)} LIMIT 1)
      UNION ALL SELECT 6, 'deal closed', NULL FROM run JOIN deals d ON d.id = run.deal_id WHERE NOT d.open)
    SELECT why, email_id FROM found ORDER BY place LIMIT 1`,
  );
  return found ? { why: found.why, emailId: found.email_id } : null;
}
