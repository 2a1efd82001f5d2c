import { z } from 'zod';
import { moment, rowsOf } from '../base/db/rows';
import { direction } from '@fulvet/contract';
import type { RecordKind } from '@fulvet/contract';
import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { recordMail } from './recordMail';
import { UNANSWERED_DAYS, unansweredOf } from './unanswered';

/** What a record's mail comes to, of the emails that the reader may know of. */
export interface MailFigures {
  emails: number;
  emailsIn: number;
  emailsOut: number;
  conversations: number;
  lastEmailAt: string | null;
  lastMetAt: string | null;
  lastDirection: 'sent' | 'received' | 'internal' | null;
  /** Who wrote it: the sender's name, or whose mailbox holds it where the reader may know no more. */
  lastBy: string | null;
  /** Conversations whose last email came from an external person, within {@link UNANSWERED_DAYS}. */
  unanswered: number;
  unansweredSince: string | null;
}

export const NO_FIGURES: MailFigures = {
  emails: 0,
  emailsIn: 0,
  emailsOut: 0,
  conversations: 0,
  lastEmailAt: null,
  lastMetAt: null,
  lastDirection: null,
  lastBy: null,
  unanswered: 0,
  unansweredSince: null,
};

/** The same figures of any emails, given as a query of `email_id, conversation_id, sent_at, direction, mail_class`. */
export async function scopeFigures(tx: Tx, scope: SQL): Promise<MailFigures> {
  return (await figuresOf(tx, sql`SELECT 0::bigint AS record_id, s.* FROM (${scope}) s`)).get(0) ?? NO_FIGURES;
}

/** Figures by record as a query: `record_id, emails, emails_in, emails_out, conversations, last_at, met_at, unanswered, unanswered_since`. Events of calendars are no emails. */
export const figuresQuery = (kind: RecordKind, ids: readonly number[] | null): SQL => figuresOfMail(recordMail(kind, ids));

function figuresOfMail(mail: SQL): SQL {
  return sql`WITH x AS MATERIALIZED (SELECT m.record_id, m.email_id AS id, m.conversation_id, m.sent_at, m.direction, m.mail_class, m.mail_class = 'event' AS is_event FROM (${mail}) m),
      open AS (SELECT record_id, count(*)::int AS unanswered, min(sent_at) AS unanswered_since FROM (${unansweredOf(sql`SELECT * FROM x`, UNANSWERED_DAYS, sql`record_id, conversation_id`)}) u GROUP BY 1),
      sums AS (SELECT record_id, count(*) FILTER (WHERE NOT is_event)::int AS emails, count(*) FILTER (WHERE NOT is_event AND direction = 'received')::int AS emails_in,
        count(*) FILTER (WHERE NOT is_event AND direction = 'sent')::int AS emails_out, count(DISTINCT conversation_id) FILTER (WHERE NOT is_event)::int AS conversations,
        max(sent_at) FILTER (WHERE NOT is_event) AS last_at, (array_agg(id ORDER BY sent_at DESC, id DESC) FILTER (WHERE NOT is_event))[1] AS last_id,
        max(sent_at) FILTER (WHERE is_event AND sent_at <= now() AND NOT EXISTS (SELECT FROM meetings c WHERE c.email_id = x.id AND c.cancelled)) AS met_at FROM x GROUP BY 1)
    SELECT s.record_id, s.emails, s.emails_in, s.emails_out, s.conversations, s.last_at, s.last_id, s.met_at, coalesce(o.unanswered, 0) AS unanswered, o.unanswered_since FROM sums s LEFT JOIN open o ON o.record_id = s.record_id`;
}

/** The figures of these records, by id; a record without mail is missing. */
export function mailFigures(tx: Tx, kind: RecordKind, ids: readonly number[]): Promise<Map<number, MailFigures>> {
  return figuresOf(tx, recordMail(kind, ids));
}

const participantRow = z.object({
  record_id: z.number(),
  emails: z.number(),
  emails_in: z.number(),
  emails_out: z.number(),
  conversations: z.number(),
  last_at: moment.nullable(),
  met_at: moment.nullable(),
  last_direction: direction.nullable(),
  last_by: z.string().nullable(),
  unanswered: z.number(),
  unanswered_since: moment.nullable(),
});

async function figuresOf(tx: Tx, mail: SQL): Promise<Map<number, MailFigures>> {
  const rows = await rowsOf(
    tx,
    participantRow,
    sql`
    SELECT q.*, e.direction AS last_direction, coalesce((SELECT coalesce(nullif(p.name, ''), p.address) FROM participants p WHERE p.email_id = e.id AND p.role = 'from' ORDER BY position LIMIT 1),
      (SELECT u.name FROM users u WHERE u.id = ANY(e.owner_ids) ORDER BY u.id LIMIT 1)) AS last_by
    FROM (${figuresOfMail(mail)}) q LEFT JOIN emails e ON e.id = q.last_id`,
  );
  return new Map(
    rows.map((row) => [
      row.record_id,
      {
        emails: row.emails,
        emailsIn: row.emails_in,
        emailsOut: row.emails_out,
        conversations: row.conversations,
        lastEmailAt: row.last_at,
        lastMetAt: row.met_at,
        lastDirection: row.last_direction,
        lastBy: row.last_by,
        unanswered: row.unanswered,
        unansweredSince: row.unanswered_since,
      },
    ]),
  );
}
