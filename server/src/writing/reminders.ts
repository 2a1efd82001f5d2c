import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Outgoing, Reminder, User } from '@fulvet/contract';
import type { Tx } from '../base/db/database';
import { json, moment, rowsOf } from '../base/db/rows';
import type { Refusal } from '../base/refusal';
import { notFound } from '../base/refusal';
import type { Services } from '../base/services';
import { outgoingOf } from './queries';

const MOST_SHOWN = 8;

/** Someone logged that a recipient of the email `o` answered in another way. */
const isLogged = sql`EXISTS (SELECT FROM jsonb_array_elements(o."to" || o.cc) p JOIN person_addresses pa ON pa.address = p ->> 'address' JOIN activity_records r ON r.kind = pa.kind AND r.record_id = pa.person_id
  JOIN activities act ON act.id = r.activity_id WHERE act.removed_at IS NULL AND act.direction IN ('received', 'both') AND act.at > o.sent_at)`;

const reminderRow = z.object({
  id: z.number(),
  email_id: z.number(),
  subject: z.string(),
  to: json<{ name: string; address: string }[]>(),
  sent_at: moment,
});

/**
 * Emails of the acting user that no one answered in the days that they chose, the longest ago first. An answer is a later email of a person of the
 * other side in the conversation, to whichever colleague, or a call or the like with a recipient that someone logged; an absence note or a delivery report is
 * none. What is sealed reminds of nothing.
 *
 * @param record of the emails under this one, as `deal:7`
 */
export async function dueReminders(tx: Tx, record?: string): Promise<Reminder[]> {
  const [kind = '', recordId = ''] = record?.split(':') ?? [];
  const rows = await rowsOf(
    tx,
    reminderRow,
    sql`
    SELECT o.id, o.email_id, o.subject, o."to", o.sent_at FROM outgoing o JOIN emails e ON e.id = o.email_id
    WHERE o.state = 'sent' AND o.remind_days IS NOT NULL AND o.sent_at + make_interval(days => o.remind_days) <= now() AND e.outcome <> 'sealed'
      AND NOT EXISTS (SELECT FROM emails a WHERE a.conversation_id = e.conversation_id AND a.sent_at > e.sent_at AND a.direction = 'received' AND a.mail_class = 'person')
      AND NOT ${isLogged}
      AND ${record === undefined ? sql`true` : sql`EXISTS (SELECT FROM filings f WHERE f.email_id = e.id AND f.kind = ${kind} AND f.record_id = ${recordId}::bigint)`}
    ORDER BY o.sent_at LIMIT ${MOST_SHOWN}`,
  );
  return rows.map(({ id, email_id, subject, to, sent_at }) => ({
    id,
    emailId: email_id,
    subject,
    to: to.map(({ name, address }) => name || address),
    sentAt: sent_at,
  }));
}

export function endReminder({ database }: Pick<Services, 'database'>, user: User, id: number): Promise<Outgoing | Refusal> {
  return database.as(user.id, async (tx) => {
    await tx.execute(sql`UPDATE outgoing SET remind_days = NULL WHERE id = ${id}`);
    return (await outgoingOf(tx, id)) ?? notFound('email');
  });
}
