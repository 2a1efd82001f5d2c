import { json, moment, rowsOf } from '../base/db/rows';
import { cursorParts } from '../base/cursor';
import type { HistoryEmail, HistoryPage, historyQuery, RecordKind } from '@fulvet/contract';
import { addressKey, bodyParts } from '@fulvet/core';
import type { CompiledRulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { z } from 'zod';
import type { Tx } from '../base/db/database';
import { meetingRow } from '../emails/emailDetail';
import { measuresOf } from '../emails/measures';
import { asPerson, filingsOf, peopleOf, shownRow } from '../emails/emailRows';
import { containing } from '../base/db/like';
import { activitiesWhere, ofRecord } from '../records/activities/queries';
import { recordMail } from '../records/recordMail';

type Query = z.output<typeof historyQuery>;

/** Newest emails of a conversation that are sent along with the page; the others are fetched when the conversation is opened. */
const SHOWN_EMAILS = 30;
const SHOWN_TEXT = 6000;
const SHOWN_PEOPLE = 12;
const SEARCH_LIMIT = 20_000;

const emailRow = shownRow.extend({
  body: z.string().nullable(),
  has_html: z.boolean().nullable(),
  attachments: json<NonNullable<HistoryEmail['content']>['attachments']>().nullable(),
  meetings: z.array(meetingRow).nullable(),
});
type EmailRow = z.infer<typeof emailRow>;

/** Which emails a history is of, as a query of `email_id, conversation_id, sent_at, direction, mail_class`. */
export const historyOf = (kind: RecordKind, id: number): SQL =>
  sql`SELECT email_id, conversation_id, sent_at, direction, mail_class FROM (${recordMail(kind, [id])}) m`;

const conversationRow = z.object({
  conversation_id: z.number(),
  last_at: moment,
  last_us: z.number(),
  first_at: moment,
  emails: z.number(),
  ids: z.array(z.number()),
  conversations_in_all: z.number(),
  emails_in_all: z.number(),
  events_in_all: z.number(),
});

/** The conversations of a history, newest first, each with its emails, oldest first. An email stands once, however many mailboxes hold it. */
export async function historyPage(tx: Tx, scope: SQL, query: Query, rulebook: CompiledRulebook): Promise<Omit<HistoryPage, 'logged'>> {
  const cursor = query.after === undefined ? sql`true` : afterCursor(query.after);
  const asked = conditions(query);
  const under =
    asked.length === 0
      ? sql`SELECT s.conversation_id, s.email_id AS id, s.sent_at, s.mail_class = 'event' AS is_event FROM (${scope}) s`
      : sql`SELECT e.conversation_id, e.id, e.sent_at, e.mail_class = 'event' AS is_event FROM (${scope}) s JOIN emails e ON e.id = s.email_id WHERE ${sql.join(asked, sql` AND `)}`;
  const heads = await rowsOf(
    tx,
    conversationRow,
    sql`
    WITH under AS (${under})
    SELECT conversation_id, max(sent_at) AS last_at, (extract(epoch FROM max(sent_at)) * 1000000)::int8 AS last_us, min(sent_at) AS first_at, count(*)::int AS emails, (array_agg(id ORDER BY sent_at DESC, id DESC))[1:${sql.raw(String(SHOWN_EMAILS))}] AS ids,
      (sum((NOT bool_or(is_event))::int) OVER ())::int AS conversations_in_all, (sum(count(*) FILTER (WHERE NOT is_event)) OVER ())::int AS emails_in_all, (sum(count(*) FILTER (WHERE is_event)) OVER ())::int AS events_in_all
    FROM under GROUP BY conversation_id HAVING ${cursor} ORDER BY max(sent_at) DESC, conversation_id DESC LIMIT ${query.limit + 1}`,
  );
  const page = heads.slice(0, query.limit);
  const emails = await historyEmails(
    tx,
    page.flatMap((head) => head.ids),
    rulebook,
  );
  const last = page.at(-1);
  const [first] = heads;
  return {
    conversations: page.map((head) => {
      const own = emails.filter((email) => email.conversationId === head.conversation_id).map((email) => email.email);
      const titled = own.find((item) => item.content !== null && item.content.subject !== '');
      return {
        id: head.conversation_id,
        subject: titled?.content?.subject ?? '',
        lastAt: head.last_at,
        firstAt: head.first_at,
        emailCount: head.emails,
        emails: own,
      };
    }),
    next: heads.length > query.limit && last ? `${last.last_us}.${last.conversation_id}` : null,
    found:
      query.after === undefined
        ? { conversations: first?.conversations_in_all ?? 0, emails: first?.emails_in_all ?? 0, events: first?.events_in_all ?? 0 }
        : null,
  };
}

function conditions(query: Query): SQL[] {
  const found: SQL[] = [];
  if (query.person)
    found.push(
      sql`e.id IN (SELECT email_id FROM fulvet_emails_with_address(${addressKey(query.person, { tagsTellApart: true })?.key ?? query.person}))`,
    );
  if (query.colleague) found.push(sql`${query.colleague} = ANY(e.owner_ids)`);
  if (query.direction) found.push(sql`e.direction = ${query.direction}`);
  if (query.attachment) found.push(sql`EXISTS (SELECT FROM email_contents c WHERE c.email_id = e.id AND c.attachment_count > 0)`);
  if (query.text) found.push(sql`e.id IN (SELECT email_id FROM fulvet_search_emails(${query.text}, ${SEARCH_LIMIT}))`);
  if (query.until) found.push(sql`e.sent_at < ${query.until}::date + 1`);
  if (query.under) {
    const [kind = '', id = ''] = query.under.split(':');
    found.push(sql`EXISTS (SELECT FROM filings f WHERE f.email_id = e.id AND f.kind = ${kind} AND f.record_id = ${Number(id)})`);
  }
  return found;
}

function afterCursor(cursor: string): ReturnType<typeof sql> {
  const [us, id] = cursorParts(cursor);
  return sql`(max(sent_at), conversation_id) < (to_timestamp(${us}::numeric / 1000000), ${id}::bigint)`;
}

async function historyEmails(
  tx: Tx,
  ids: readonly number[],
  rulebook: CompiledRulebook,
): Promise<{ conversationId: number; email: HistoryEmail }[]> {
  if (ids.length === 0) return [];
  const rows = await rowsOf(
    tx,
    emailRow,
    sql`
    SELECT e.id, e.sent_at, e.direction, e.outcome, e.mail_class, e.visibility, e.conversation_id, c.subject, left(c.body, ${SHOWN_TEXT + 1}) AS body, c.has_html,
      (SELECT array_agg(DISTINCT m.address) FROM sightings s JOIN mailboxes m ON m.id = s.mailbox_id WHERE s.email_id = e.id) AS mailboxes, ${filingsOf(sql`e.id`)} AS filings,
      p.people, coalesce(p.recipient_count, 0) AS recipient_count,
      (SELECT json_agg(json_build_object('position', a.position, 'name', a.name, 'type', a.type, 'size', a.size, 'inline', a.inline) ORDER BY a.position) FROM attachments a WHERE a.email_id = e.id) AS attachments,
      (SELECT json_agg(json_build_object('summary', m.summary, 'location', m.location, 'startsAt', m.starts_at, 'endsAt', m.ends_at, 'cancelled', m.cancelled, 'answers', m.answers) ORDER BY m.starts_at, m.uid) FROM meetings m WHERE m.email_id = e.id) AS meetings
    FROM emails e LEFT JOIN email_contents c ON c.email_id = e.id LEFT JOIN LATERAL (${peopleOf(sql`e.id`, SHOWN_PEOPLE)}) p ON true WHERE e.id = ANY(${sql.param([...ids])}::bigint[]) ORDER BY e.sent_at, e.id`,
  );
  const sent = rows.filter(({ direction: way }) => way === 'sent');
  const measures = await measuresOf(
    tx,
    'email',
    sent.map(({ id }) => id),
  );
  return rows.map((row) => ({
    conversationId: row.conversation_id,
    email: {
      id: row.id,
      at: row.sent_at,
      direction: row.direction,
      outcome: row.outcome,
      mailClass: row.mail_class,
      visibility: row.visibility,
      mailboxes: row.mailboxes ?? [],
      filings: row.filings ?? [],
      content: row.subject === null ? null : contentOf(row, rulebook),
      measure: measures.get(row.id) ?? null,
    },
  }));
}

function contentOf(row: EmailRow, rulebook: CompiledRulebook): HistoryEmail['content'] {
  const people = (row.people ?? []).map((person) => asPerson(person, rulebook));
  const body = row.body ?? '';
  return {
    subject: row.subject ?? '',
    from: people.find((person) => person.role === 'from') ?? null,
    recipients: people.filter((person) => person.role !== 'from'),
    recipientCount: row.recipient_count,
    parts: bodyParts(body.slice(0, SHOWN_TEXT)),
    shortened: body.length > SHOWN_TEXT,
    hasHtml: row.has_html ?? false,
    attachments: row.attachments ?? [],
    meetings: row.meetings ?? [],
  };
}

/** Activities of a page are no more than these: who logs more in so short a time reads them on the record. */
const MOST_LOGGED = 200;

/** What was written down by hand in the time of a page of a record's history, where nothing is asked for that only mail has. */
export async function loggedBeside(
  tx: Tx,
  userId: number,
  { kind, id }: { kind: RecordKind; id: number },
  query: Query,
  { next, conversations }: Omit<HistoryPage, 'logged'>,
): Promise<HistoryPage['logged']> {
  if (query.person || query.colleague || query.direction || query.attachment || query.under) return [];
  const conditions = [ofRecord(kind, id)];
  // Emails of the same moment come first.
  if (query.after !== undefined) conditions.push(sql`a.at < to_timestamp(${cursorParts(query.after)[0]}::numeric / 1000000)`);
  const last = conversations.at(-1);
  if (next !== null && last) conditions.push(sql`a.at >= ${last.lastAt}::timestamptz`);
  if (query.text) conditions.push(sql`a.text ILIKE ${containing(query.text)}`);
  if (query.until) conditions.push(sql`a.at < ${query.until}::date + 1`);
  return activitiesWhere(tx, userId, sql.join(conditions, sql` AND `), MOST_LOGGED);
}
