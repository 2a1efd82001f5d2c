import { z } from 'zod';
import { moment, rowsOf } from '../base/db/rows';
import type { Insights, RecordKind } from '@fulvet/contract';
import { acquaintanceOf, domainOf } from '@fulvet/core';
import type { CompiledRulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { latestMeetings } from '../emails/latestMeetings';
import { lastContactLogged } from '../records/activities/queries';
import { mailFigures, NO_FIGURES } from '../records/mailFigures';
import { UNANSWERED_DAYS, unansweredOf } from '../records/unanswered';
import type { MailFigures } from '../records/mailFigures';

const MONTHS = 12;
const MOST_ACQUAINTANCES = 12;
const MOST_UNANSWERED = 8;
/** Fewer answers than this tell no usual time. */
const FEW_ANSWERS = 2;

/** What people look at before they write about a record, of the emails that the reader may know of. */
export async function recordInsights(tx: Tx, kind: RecordKind, id: number, scope: SQL, rulebook: CompiledRulebook): Promise<Insights> {
  const figures = (await mailFigures(tx, kind, [id])).get(id) ?? NO_FIGURES;
  return {
    ...(await insightsOf(tx, scope, rulebook)),
    figures,
    deals: await openDeals(tx, kind, id),
    lastLogged: await lastContactLogged(tx, kind, id),
  };
}

/** @param figures what the mail of the scope comes to */
export async function scopeInsights(tx: Tx, scope: SQL, figures: MailFigures, rulebook: CompiledRulebook): Promise<Insights> {
  return { ...(await insightsOf(tx, scope, rulebook)), figures, deals: [], lastLogged: null };
}

/** The emails of a scope under the names of their columns. */
const mailOf = (scope: SQL): SQL => sql`SELECT s.email_id AS id, s.conversation_id, s.sent_at, s.direction, s.mail_class FROM (${scope}) s`;

const monthRow = z.object({ month: z.string(), sent: z.number(), received: z.number() });

async function insightsOf(tx: Tx, scope: SQL, rulebook: CompiledRulebook): Promise<Omit<Insights, 'figures' | 'deals' | 'lastLogged'>> {
  const months = await rowsOf(
    tx,
    monthRow,
    sql`
    SELECT to_char(m, 'YYYY-MM') AS month, count(e.id) FILTER (WHERE e.direction = 'sent')::int AS sent, count(e.id) FILTER (WHERE e.direction = 'received')::int AS received
    FROM generate_series(date_trunc('month', now()) - make_interval(months => ${MONTHS - 1}), date_trunc('month', now()), interval '1 month') m
      LEFT JOIN (SELECT e.id, e.direction, e.sent_at FROM (${mailOf(scope)}) e WHERE e.mail_class <> 'event') e ON date_trunc('month', e.sent_at) = m GROUP BY m ORDER BY m`,
  );
  return {
    months: months.map(({ month, sent, received }) => ({ month, sent, received })),
    answerHours: await answerHours(tx, scope),
    acquaintances: await acquaintances(tx, scope, rulebook),
    unanswered: await unanswered(tx, scope),
    meeting: await nextMeeting(tx, scope),
  };
}

const answerHoursRow = z.object({ direction: z.string(), answers: z.number(), hours: z.number() });

/** Within a conversation, an email of a person is answered by the next one of the other side. */
async function answerHours(tx: Tx, scope: SQL): Promise<Insights['answerHours']> {
  const rows = await rowsOf(
    tx,
    answerHoursRow,
    sql`
    WITH x AS (SELECT e.conversation_id, e.direction, e.sent_at, lag(e.direction) OVER w AS before, lag(e.sent_at) OVER w AS asked_at
      FROM (${mailOf(scope)}) e WHERE e.mail_class = 'person' AND e.direction IN ('sent', 'received') AND e.sent_at > now() - make_interval(months => ${MONTHS})
      WINDOW w AS (PARTITION BY e.conversation_id ORDER BY e.sent_at, e.id))
    SELECT direction, count(*)::int AS answers, (percentile_cont(0.5) WITHIN GROUP (ORDER BY extract(epoch FROM sent_at - asked_at) / 3600))::float8 AS hours FROM x WHERE before IS NOT NULL AND before <> direction GROUP BY 1`,
  );
  const of = (direction: string): number | null => {
    const found = rows.find((row) => row.direction === direction);
    return found && found.answers >= FEW_ANSWERS ? found.hours : null;
  };
  return { ours: of('sent'), theirs: of('received') };
}

const participantRow = z.object({
  ours: z.string(),
  our_name: z.string(),
  theirs: z.string(),
  their_name: z.string(),
  sent: z.number(),
  received: z.number(),
  last_at: moment,
  days: z.number(),
});

async function acquaintances(tx: Tx, scope: SQL, rulebook: CompiledRulebook): Promise<Insights['acquaintances']> {
  const rows = await rowsOf(
    tx,
    participantRow,
    sql`
    WITH x AS (SELECT e.id, e.sent_at, e.direction FROM (${mailOf(scope)}) e WHERE e.mail_class = 'person' AND e.direction IN ('sent', 'received') ORDER BY e.sent_at DESC LIMIT 5000),
      p AS (SELECT x.*, f.address AS sender, f.name AS sender_name, t.address AS recipient, t.name AS recipient_name FROM x JOIN participants f ON f.email_id = x.id AND f.role = 'from' JOIN participants t ON t.email_id = x.id AND t.role IN ('to', 'cc')),
      pairs AS (SELECT CASE direction WHEN 'sent' THEN sender ELSE recipient END AS ours, CASE direction WHEN 'sent' THEN sender_name ELSE recipient_name END AS our_name,
        CASE direction WHEN 'sent' THEN recipient ELSE sender END AS theirs, CASE direction WHEN 'sent' THEN recipient_name ELSE sender_name END AS their_name, direction, sent_at, id FROM p)
    SELECT ours, coalesce((SELECT u.name FROM users u WHERE lower(u.email) = ours), mode() WITHIN GROUP (ORDER BY nullif(our_name, '')), '') AS our_name, theirs, coalesce(mode() WITHIN GROUP (ORDER BY nullif(their_name, '')), '') AS their_name, count(DISTINCT id) FILTER (WHERE direction = 'sent')::int AS sent, count(DISTINCT id) FILTER (WHERE direction = 'received')::int AS received,
      max(sent_at) AS last_at, (extract(epoch FROM now() - max(sent_at)) / 86400)::float8 AS days
    FROM pairs GROUP BY ours, theirs ORDER BY least(count(*) FILTER (WHERE direction = 'sent'), count(*) FILTER (WHERE direction = 'received')) DESC, count(*) DESC LIMIT 300`,
  );
  const isOurs = (address: string): boolean => rulebook.isOurs(address, domainOf(address));
  return rows
    .filter((row) => isOurs(row.ours) && !isOurs(row.theirs))
    .slice(0, MOST_ACQUAINTANCES)
    .map((row) => ({
      colleague: row.our_name || row.ours,
      person: row.their_name || row.theirs,
      address: row.theirs,
      sent: row.sent,
      received: row.received,
      lastAt: row.last_at,
      strength: acquaintanceOf({ sent: row.sent, received: row.received, daysAgo: row.days }),
    }));
}

const unansweredRow = z.object({
  id: z.number(),
  conversation_id: z.number(),
  sent_at: moment,
  subject: z.string().nullable(),
  sender: z.string().nullable(),
});

async function unanswered(tx: Tx, scope: SQL): Promise<Insights['unanswered']> {
  const rows = await rowsOf(
    tx,
    unansweredRow,
    sql`
    SELECT l.id, l.conversation_id, l.sent_at, c.subject, (SELECT coalesce(nullif(p.name, ''), p.address) FROM participants p WHERE p.email_id = l.id AND p.role = 'from' LIMIT 1) AS sender
    FROM (${unansweredOf(mailOf(scope), UNANSWERED_DAYS)}) l LEFT JOIN email_contents c ON c.email_id = l.id ORDER BY l.sent_at LIMIT ${MOST_UNANSWERED}`,
  );
  return rows.map((row) => ({
    emailId: row.id,
    conversationId: row.conversation_id,
    subject: row.subject ?? '',
    from: row.sender ?? '',
    since: row.sent_at,
  }));
}

const meetingRow = z.object({ email_id: z.number(), starts_at: moment, ends_at: moment, summary: z.string(), location: z.string() });

/** The next meeting that was not cancelled. */
export async function nextMeeting(tx: Tx, scope: SQL): Promise<Insights['meeting']> {
  const rows = await rowsOf(
    tx,
    meetingRow,
    sql`
    SELECT q.email_id, q.starts_at, q.ends_at, q.summary, q.location FROM ${latestMeetings(sql`SELECT m.*, e.sent_at, e.mail_class FROM (${mailOf(scope)}) e JOIN meetings m ON m.email_id = e.id`)} q
    WHERE NOT q.cancelled AND q.ends_at > now() ORDER BY q.starts_at LIMIT 1`,
  );
  const [row] = rows;
  if (!row) return null;
  return {
    emailId: row.email_id,
    at: row.starts_at,
    until: row.ends_at,
    summary: row.summary,
    location: row.location,
  };
}

const dealRow = z.object({ id: z.number(), name: z.string(), stage: z.string(), amount: z.number().nullable(), currency: z.string() });

async function openDeals(tx: Tx, kind: RecordKind, id: number): Promise<Insights['deals']> {
  if (kind === 'deal') return [];
  const theirs =
    kind === 'account'
      ? sql`d.account_id = ${id}`
      : sql`EXISTS (SELECT FROM deal_people p WHERE p.deal_id = d.id AND p.kind = ${kind} AND p.person_id = ${id})`;
  const rows = await rowsOf(
    tx,
    dealRow,
    sql`SELECT d.id, d.name, d.stage, d.amount, d.currency FROM deals d WHERE d.open AND ${theirs} ORDER BY d.amount DESC NULLS LAST, lower(d.name) LIMIT 20`,
  );
  return rows.map(({ id: deal, name, stage, amount, currency }) => ({ id: deal, name, stage, amount, currency }));
}
