import { notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { EmailDetail, Filing, Person, User } from '@fulvet/contract';
import { bodyParts, docketSentences } from '@fulvet/core';
import type { CompiledRulebook, Docket, Question } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { asSeen, questionsOf } from '../records/seenRecords';
import type { Tx } from '../base/db/database';
import { asPerson, filingsOf } from './emailRows';
import { ruleTextOf } from '../rulebook/ruleTexts';

interface Row {
  [column: string]: unknown;
  id: number;
  sent_at: string;
  date_source: string;
  message_id: string | null;
  direction: EmailDetail['direction'];
  outcome: EmailDetail['outcome'];
  mail_class: EmailDetail['mailClass'];
  class_header: string | null;
  class_value: string | null;
  sender_check: EmailDetail['senderCheck'];
  visibility: EmailDetail['visibility'];
  shared_teams: string[];
  existence_only: boolean;
  owner_ids: number[];
  conversation_id: number;
  size: number;
  external_domains: string[];
  problems: EmailDetail['problems'];
  filings: Filing[] | null;
  stops: Docket | null;
  rulebook_version: number | null;
  sightings: EmailDetail['sightings'] | null;
  subject: string | null;
  body: string | null;
  has_html: boolean | null;
  docket: Docket | null;
  questions: Question[] | null;
  /** Blind copies that the reader does not know of. */
  hidden: string[];
}

/** One email with its docket. Without the right to read it, what it says and the evidence stay away. */
export async function emailDetail(
  tx: Tx,
  id: number,
  rulebook: CompiledRulebook,
  reader: Pick<User, 'id' | 'role'>,
): Promise<EmailDetail | Refusal> {
  const { rows } = await tx.execute<Row>(sql`
    SELECT e.*, c.subject, c.body, c.has_html, k.docket, k.questions, fulvet_hidden_bcc(e.id) AS hidden, ${filingsOf(sql`e.id`)} AS filings,
      (SELECT json_agg(json_build_object('mailbox', m.address, 'owner', u.name, 'folder', s.folder) ORDER BY m.address) FROM sightings s JOIN mailboxes m ON m.id = s.mailbox_id JOIN users u ON u.id = m.owner_id WHERE s.email_id = e.id) AS sightings
    FROM emails e LEFT JOIN email_contents c ON c.email_id = e.id LEFT JOIN dockets k ON k.email_id = e.id WHERE e.id = ${id}`);
  const row = rows[0];
  if (!row) return notFound('email');
  const questions = questionsOf(row.questions);
  const [seen] = await asSeen(tx, [{ docket: row.docket ?? row.stops ?? [], questions }]);
  const ruleText = ruleTextOf(rulebook);
  // Whoever is to see only that it exists, sees when, which colleague and which company; an administrator also how it was decided.
  const existenceAlone = row.subject === null && reader.role !== 'admin' && !row.owner_ids.includes(reader.id);
  return {
    id: row.id,
    at: new Date(row.sent_at).toISOString(),
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
    questions: seen?.questions ?? [],
    content: row.subject === null ? null : await contentOf(tx, row, rulebook),
  };
}

async function contentOf(tx: Tx, row: Row, rulebook: CompiledRulebook): Promise<EmailDetail['content']> {
  const people = await tx.execute<{ role: Person['role']; address: string; name: string }>(
    sql`SELECT role, address, name FROM participants WHERE email_id = ${row.id} ORDER BY array_position(ARRAY['from','sender','replyTo','to','cc','bcc','claimed'], role), position LIMIT 500`,
  );
  const attached = await tx.execute<{ position: number; name: string; type: string; size: number; inline: boolean }>(
    sql`SELECT position, name, type, size, inline FROM attachments WHERE email_id = ${row.id} ORDER BY position`,
  );
  return {
    subject: row.subject ?? '',
    participants: people.rows.map((item) => asPerson(item, rulebook)),
    parts: bodyParts(row.body ?? ''),
    hasHtml: row.has_html ?? false,
    attachments: attached.rows,
  };
}
