import { z } from 'zod';
import { json, moment, rowsOf } from '../base/db/rows';
import { direction, outcome, mailClass, shareLevel } from '@fulvet/contract';
import { GUEST_ANSWERS } from '@fulvet/core';
import { notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { EmailDetail, Filing, User } from '@fulvet/contract';
import { SENDER_CHECKS, PARTICIPANT_ROLES, bodyParts, docketSentences } from '@fulvet/core';
import type { CompiledRulebook, Docket, Question } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { asSeen, questionsOf } from '../records/seenRecords';
import type { Tx } from '../base/db/database';
import { asPerson, filingsOf } from './emailRows';
import { measuresOf } from './measures';
import { ruleTextOf } from '../rulebook/ruleTexts';

const emailRow = z.object({
  id: z.number(),
  sent_at: moment,
  date_source: z.string(),
  message_id: z.string().nullable(),
  direction: direction.nullable(),
  outcome: outcome.nullable(),
  mail_class: mailClass,
  class_header: z.string().nullable(),
  class_value: z.string().nullable(),
  sender_check: z.enum(SENDER_CHECKS),
  visibility: shareLevel,
  shared_teams: z.array(z.string()),
  existence_only: z.boolean(),
  owner_ids: z.array(z.number()),
  conversation_id: z.number(),
  size: z.number(),
  external_domains: z.array(z.string()),
  problems: json<EmailDetail['problems']>(),
  filings: json<Filing[]>().nullable(),
  steps: json<Docket>().nullable(),
  rulebook_version: z.number().nullable(),
  sightings: json<EmailDetail['sightings']>().nullable(),
  subject: z.string().nullable(),
  body: z.string().nullable(),
  has_html: z.boolean().nullable(),
  docket: json<Docket>().nullable(),
  questions: json<Question[]>().nullable(),
  /** Blind copies that the reader does not know of. */
  hidden: z.array(z.string()),
});
type EmailRow = z.infer<typeof emailRow>;

/** One email with its decision. Without the right to read it, what it says and the evidence stay away. */
export async function emailDetail(
  tx: Tx,
  id: number,
  rulebook: CompiledRulebook,
  reader: Pick<User, 'id' | 'role'>,
): Promise<EmailDetail | Refusal> {
  const rows = await rowsOf(
    tx,
    emailRow,
    sql`
    SELECT e.*, c.subject, c.body, c.has_html, k.docket, k.questions, fulvet_hidden_bcc(e.id) AS hidden, ${filingsOf(sql`e.id`)} AS filings,
      (SELECT json_agg(json_build_object('mailbox', m.address, 'owner', u.name, 'folder', s.folder) ORDER BY m.address) FROM sightings s JOIN mailboxes m ON m.id = s.mailbox_id JOIN users u ON u.id = m.owner_id WHERE s.email_id = e.id) AS sightings
    FROM emails e LEFT JOIN email_contents c ON c.email_id = e.id LEFT JOIN dockets k ON k.email_id = e.id WHERE e.id = ${id}`,
  );
  const row = rows[0];
  if (!row) return notFound('email');
  const questions = questionsOf(row.questions);
  const [seen] = await asSeen(tx, [{ docket: row.docket ?? row.steps ?? [], questions }]);
  const ruleText = ruleTextOf(rulebook);
  // Whoever is to see only that it exists, sees when, which colleague and which company; an administrator also how it was decided.
  const existenceAlone = row.subject === null && reader.role !== 'admin' && !row.owner_ids.includes(reader.id);
  return {
    id: row.id,
    at: row.sent_at,
    dateSource: row.date_source,
    messageId: existenceAlone ? null : row.message_id,
    direction: row.direction,
    outcome: row.outcome,
    mailClass: row.mail_class,
    classProof:
      row.class_header === null
        ? null
        : { header: row.class_header, value: row.outcome === 'kept out' && row.class_header === 'From' ? '' : (row.class_value ?? '') },
    senderCheck: row.sender_check,
    visibility: row.visibility,
    sharedTeams: row.shared_teams,
    existenceOnly: row.existence_only,
    conversationId: row.conversation_id,
    owned: row.owner_ids.includes(reader.id),
    size: row.size,
    sightings: (row.sightings ?? []).map((sighting) => (existenceAlone ? { ...sighting, folder: '' } : sighting)),
    externalDomains: row.external_domains,
    problems: existenceAlone ? [] : row.problems,
    filings: row.filings ?? [],
    docket: docketSentences(existenceAlone ? [] : (seen?.docket ?? [])).map((entry) => ({
      ...entry,
      because: entry.because.filter((sentence) => !row.hidden.some((address) => sentence.includes(address))),
      ruleText: ruleText(entry.rule),
    })),
    rulebookVersion: row.rulebook_version,
    measure: row.direction === 'sent' ? ((await measuresOf(tx, 'email', [row.id])).get(row.id) ?? null) : null,
    questions: seen?.questions ?? [],
    content: row.subject === null ? null : await contentOf(tx, row, rulebook),
  };
}

const participantRow = z.object({ role: z.enum(PARTICIPANT_ROLES), address: z.string(), name: z.string() });

const attachmentRow = z.object({ position: z.number(), name: z.string(), type: z.string(), size: z.number(), inline: z.boolean() });

/** A meeting as a row of the database has it. */
export const meetingRow = z.object({
  summary: z.string(),
  location: z.string(),
  startsAt: moment,
  endsAt: moment,
  cancelled: z.boolean(),
  answers: z.record(z.string(), z.enum(GUEST_ANSWERS)),
});

async function contentOf(tx: Tx, row: EmailRow, rulebook: CompiledRulebook): Promise<EmailDetail['content']> {
  const people = await rowsOf(
    tx,
    participantRow,
    sql`SELECT role, address, name FROM participants WHERE email_id = ${row.id} ORDER BY array_position(ARRAY['from','sender','replyTo','to','cc','bcc','claimed'], role), position LIMIT 500`,
  );
  const attached = await rowsOf(
    tx,
    attachmentRow,
    sql`SELECT position, name, type, size, inline FROM attachments WHERE email_id = ${row.id} ORDER BY position`,
  );
  const meetings = await rowsOf(
    tx,
    meetingRow,
    sql`SELECT summary, location, starts_at AS "startsAt", ends_at AS "endsAt", cancelled, answers FROM meetings WHERE email_id = ${row.id} ORDER BY starts_at, uid`,
  );
  return {
    subject: row.subject ?? '',
    participants: people.map((item) => asPerson(item, rulebook)),
    parts: bodyParts(row.body ?? ''),
    hasHtml: row.has_html ?? false,
    attachments: attached,
    meetings,
  };
}
