import type { EmailFacts, Participant } from '@fulvet/core';
import { codeWordsOfText, ownText, wordPairsOf } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';

/** Where what emails say is kept; a kept-out email has rows in none of them. */
const CONTENTS = ['email_contents', 'dockets', 'participants', 'attachments', 'meetings'] as const;

/** Forgets what these emails say; that they exist stays. */
export async function dropContents(tx: Tx, ids: readonly number[]): Promise<void> {
  if (ids.length === 0) return;
  for (const table of CONTENTS)
    await tx.execute(sql`DELETE FROM ${sql.identifier(table)} WHERE email_id = ANY(${sql.param([...ids])}::bigint[])`);
}

/** The version of what is read from a text for deciding; stored texts of an earlier one are read again. */
export const READING = 1;

const INDEXED_TEXT = 150_000;

/** Stores what emails say: contents, participants, attachments. Also used when a kept-out email is let in again. */
export async function insertContents(tx: Tx, emails: readonly { id: number; facts: EmailFacts }[]): Promise<void> {
  if (emails.length === 0) return;
  const contents = emails.map(({ id, facts }) => ({
    email_id: id,
    subject: facts.subject,
    base_subject: facts.baseSubject,
    preview: previewOf(facts.text),
    body: facts.text,
    has_html: facts.hasHtml,
    attachment_count: facts.attachments.filter((attachment) => !attachment.inline).length,
    words: searchText(facts),
    codes: codeWordsOfText(facts.text),
    word_pairs: wordPairsOf(facts.text),
  }));
  await tx.execute(sql`INSERT INTO email_contents (email_id, subject, base_subject, preview, body, has_html, attachment_count, search, codes, word_pairs, reading)
    SELECT email_id, subject, base_subject, preview, body, has_html, attachment_count, to_tsvector('simple', words), ARRAY(SELECT json_array_elements_text(codes)), word_pairs, ${READING}
    FROM json_to_recordset(${JSON.stringify(contents)}::json) AS c(email_id bigint, subject text, base_subject text, preview text, body text, has_html boolean, attachment_count int, words text, codes json, word_pairs text)
    ON CONFLICT (email_id) DO NOTHING`);
  await insertParticipants(tx, emails);
  await insertMeetings(tx, emails);
  const attached = emails.flatMap(({ id, facts }) =>
    facts.attachments.map((attachment, position) => ({
      email_id: id,
      position,
      name: attachment.name,
      type: attachment.type,
      size: attachment.size,
      content_id: attachment.contentId,
      inline: attachment.inline,
    })),
  );
  if (attached.length === 0) return;
  await tx.execute(sql`INSERT INTO attachments (email_id, position, name, type, size, content_id, inline)
    SELECT email_id, position, name, type, size, content_id, inline FROM json_to_recordset(${JSON.stringify(attached)}::json) AS a(email_id bigint, position int, name text, type text, size int, content_id text, inline boolean) ON CONFLICT DO NOTHING`);
}

async function insertMeetings(tx: Tx, emails: readonly { id: number; facts: EmailFacts }[]): Promise<void> {
  const rows = emails.flatMap(({ id, facts }) =>
    facts.meetings.map((meeting) => ({
      email_id: id,
      uid: meeting.uid,
      occurs_at: meeting.occursAt === null ? null : new Date(meeting.occursAt).toISOString(),
      sequence: meeting.sequence,
      cancelled: meeting.cancelled,
      starts_at: new Date(meeting.startsAt).toISOString(),
      ends_at: new Date(meeting.endsAt).toISOString(),
      whole_day: meeting.wholeDay,
      summary: meeting.summary,
      location: meeting.location,
      answers: meeting.answers,
    })),
  );
  if (rows.length === 0) return;
  await tx.execute(sql`INSERT INTO meetings (email_id, uid, occurs_at, sequence, cancelled, starts_at, ends_at, whole_day, summary, location, answers)
    SELECT email_id, uid, occurs_at, sequence, cancelled, starts_at, ends_at, whole_day, summary, location, answers
    FROM json_to_recordset(${JSON.stringify(rows)}::json) AS m(email_id bigint, uid text, occurs_at timestamptz, sequence int, cancelled boolean, starts_at timestamptz, ends_at timestamptz, whole_day boolean, summary text, location text, answers jsonb) ON CONFLICT DO NOTHING`);
}

export async function insertParticipants(
  tx: Tx,
  emails: readonly { id: number; facts: Pick<EmailFacts, 'participants'> }[],
): Promise<void> {
  const rows = emails.flatMap(({ id, facts }) => facts.participants.map((participant, position) => ({ id, position, ...participant })));
  if (rows.length === 0) return;
  await tx.execute(sql`INSERT INTO participants (email_id, role, position, address, domain, name)
    SELECT * FROM unnest(${sql.param(rows.map((row) => row.id))}::bigint[], ${sql.param(rows.map((row) => row.role))}::text[], ${sql.param(rows.map((row) => row.position))}::int[],
      ${sql.param(rows.map((row) => row.address))}::text[], ${sql.param(rows.map((row) => row.domain))}::text[], ${sql.param(rows.map((row) => row.name))}::text[])
    ON CONFLICT DO NOTHING`);
}

function previewOf(text: string): string {
  const own = ownText(text.slice(0, 20_000)) || text.slice(0, 2000);
  return own.replace(/\s+/g, ' ').trim().slice(0, 240).toWellFormed();
}

/** The text by which an email is found. */
export function searchText(facts: Pick<EmailFacts, 'subject' | 'attachments' | 'text'> & { participants: readonly Participant[] }): string {
  // Blind copies are found by those who know of them, through the participants.
  const people = facts.participants
    .filter((participant) => participant.role !== 'bcc')
    .slice(0, 500)
    .map((participant) => `${participant.name} ${participant.address}`);
  const names = facts.attachments.slice(0, 100).map((attachment) => attachment.name);
  return [facts.subject, ...people, ...names, facts.text].join(' ').slice(0, INDEXED_TEXT).toWellFormed();
}
