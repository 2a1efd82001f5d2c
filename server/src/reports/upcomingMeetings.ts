import { z } from 'zod';
import type { Arrival, User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { moment, rowsOf } from '../base/db/rows';
import { latestMeetings } from '../emails/latestMeetings';
import { recordBeside, recordOfEmail } from './recordOfEmail';

const AHEAD_DAYS = 14;
const MOST_SHOWN = 6;
/** Different meetings looked at, the nearest first: a calendar that invites to everything does not slow the page. */
const MOST_LOOKED_AT = 200;

const meetingRow = z.object({
  email_id: z.number(),
  starts_at: moment,
  ends_at: moment,
  summary: z.string(),
  location: z.string(),
  record: recordBeside,
});

/** Meetings of the next two weeks, of the user's calendars and of the invitations in filed or waiting emails of their mailboxes; what was cancelled or moved away is left out. */
export async function upcomingMeetings(tx: Tx, user: User): Promise<Arrival['meetings']> {
  const ahead = sql`m.ends_at > now() AND m.starts_at < now() + make_interval(days => ${AHEAD_DAYS})`;
  const own = sql`${user.id}::bigint = ANY(e.owner_ids) AND e.outcome IN ('filed', 'waiting')`;
  const rows = await rowsOf(
    tx,
    meetingRow,
    sql`
    WITH near AS (SELECT DISTINCT uid FROM (SELECT m.uid FROM meetings m JOIN emails e ON e.id = m.email_id WHERE ${ahead} AND m.starts_at > now() - interval '31 days' AND ${own} ORDER BY m.starts_at DESC LIMIT ${MOST_LOOKED_AT}) n),
      latest AS (SELECT q.* FROM ${latestMeetings(sql`SELECT m.*, e.sent_at, e.mail_class FROM near JOIN meetings m ON m.uid = near.uid JOIN emails e ON e.id = m.email_id WHERE ${own}`)} q)
    SELECT m.email_id, m.starts_at, m.ends_at, m.summary, m.location, ${recordOfEmail(sql`m.email_id`)} AS record
    FROM latest m WHERE NOT m.cancelled AND ${ahead} ORDER BY m.starts_at, m.uid LIMIT ${MOST_SHOWN}`,
  );
  return rows.map((row) => ({
    emailId: row.email_id,
    at: row.starts_at,
    until: row.ends_at,
    summary: row.summary,
    location: row.location,
    record: row.record,
  }));
}
