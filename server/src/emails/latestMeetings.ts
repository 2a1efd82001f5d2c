import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';

/**
 * Meetings as they stand, each once, as rows of `meetings`: of several emails about a meeting, the latest change counts; where it stands in a calendar, the event of
 * the calendar does, and what emails said of it does not.
 *
 * @param found a query of rows of `meetings` with `sent_at` and `mail_class` of their emails
 */
export const latestMeetings = (found: SQL): SQL => sql`(WITH found AS MATERIALIZED (${found})
    SELECT DISTINCT ON (f.uid, f.occurs_at) f.* FROM found f
    WHERE f.mail_class = 'event' OR NOT EXISTS (SELECT FROM found o WHERE o.uid = f.uid AND o.mail_class = 'event')
    ORDER BY f.uid, f.occurs_at, f.sequence DESC, f.sent_at DESC)`;
