import type { Direction, MailClass, ShareLevel, SenderCheck } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { CopiedRow } from '../../base/db/copyRows';

/** What parts the texts of a list that comes as one text, and what parts lists of such. */
export const PART = '\u001f';
export const GROUP = '\u001e';

/** What a rulebook asks of emails beyond what every decision needs. */
export interface FactNeeds {
  text: boolean;
  attachments: boolean;
}

/** An email as it is read for walking over very much mail: what is many rows elsewhere is one text here. */
export interface LeanRow {
  id: number;
  at: number;
  mailClass: MailClass;
  classHeader: string | null;
  classValue: string | null;
  conversationId: number;
  /** Ids, separated by commas. */
  owners: string;
  outcome: string | null;
  direction: Direction | null;
  visibility: ShareLevel;
  sharedTeams: string | null;
  existenceOnly: boolean;
  decided: boolean;
  size: number;
  sensitivity: string | null;
  /** The decision in short, as JSON. */
  steps: string | null;
  /** Null where the content is not kept. */
  subject: string | null;
  codes: string | null;
  wordPairs: string | null;
  body: string | null;
  /** In alphabetical order of roles. */
  people: string | null;
  /** As `filedUnder` reads it. */
  filings: string | null;
  /** Mailboxes and folders. */
  held: string | null;
  senderCheck: SenderCheck;
  attachments: string | null;
}

/**
 * The query of the emails, in order of date; {@link leanRow} reads what it gives.
 *
 * @param where a condition on `e`, without parameters
 */
export function leanQuery(where: SQL, needs: FactNeeds): SQL {
  return sql`SELECT e.id, (extract(epoch FROM e.sent_at) * 1000)::float8, e.mail_class, e.class_header, e.class_value, e.conversation_id, array_to_string(e.owner_ids, ','), e.outcome, e.direction,
      e.visibility, CASE WHEN e.shared_teams <> '{}' THEN array_to_string(e.shared_teams, chr(31)) END, e.existence_only, e.decided_at IS NOT NULL, e.size, e.sensitivity, e.steps::text, c.subject,
      CASE WHEN c.codes <> '{}' THEN array_to_string(c.codes, chr(31)) END, ${needs.text ? sql`c.body` : sql`NULL`}, p.people, f.filings, h.held,
      e.sender_check,
      ${needs.attachments ? sql`(SELECT string_agg(x.name, chr(31) ORDER BY x.position) FROM attachments x WHERE x.email_id = e.id AND NOT x.inline)` : sql`NULL`}, c.word_pairs
    FROM emails e LEFT JOIN email_contents c ON c.email_id = e.id
      LEFT JOIN LATERAL (SELECT string_agg(q.role || chr(31) || q.address || chr(31) || q.domain || chr(31) || q.name, chr(30) ORDER BY q.role, q.position) AS people FROM participants q WHERE q.email_id = e.id) p ON true
      LEFT JOIN LATERAL (SELECT string_agg(kind || ':' || record_id || ':' || rule, ',' ORDER BY kind, record_id) AS filings FROM filings WHERE email_id = e.id) f ON true
      LEFT JOIN LATERAL (SELECT string_agg(s.mailbox_id || chr(31) || s.folder, chr(30) ORDER BY s.mailbox_id, s.folder) AS held FROM sightings s WHERE s.email_id = e.id) h ON true
    WHERE ${where} ORDER BY e.sent_at, e.id`;
}

export function leanRow(columns: CopiedRow): LeanRow {
  return {
    id: Number(columns[0]),
    at: Number(columns[1]),
    mailClass: columns[2] as MailClass,
    classHeader: columns[3] ?? null,
    classValue: columns[4] ?? null,
    conversationId: Number(columns[5]),
    owners: columns[6] ?? '',
    outcome: columns[7] ?? null,
    direction: (columns[8] ?? null) as Direction | null,
    visibility: columns[9] as ShareLevel,
    sharedTeams: columns[10] ?? null,
    existenceOnly: columns[11] === 't',
    decided: columns[12] === 't',
    size: Number(columns[13]),
    sensitivity: columns[14] ?? null,
    steps: columns[15] ?? null,
    subject: columns[16] ?? null,
    codes: columns[17] ?? null,
    body: columns[18] ?? null,
    people: columns[19] ?? null,
    filings: columns[20] ?? null,
    held: columns[21] ?? null,
    senderCheck: columns[22] as SenderCheck,
    attachments: columns[23] ?? null,
    wordPairs: columns[24] ?? null,
  };
}
