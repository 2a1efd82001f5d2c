import { z } from 'zod';
import { json, moment, rowsOf } from '../base/db/rows';
import { direction, outcome, mailClass, shareLevel } from '@fulvet/contract';
import { domainOf, RULES } from '@fulvet/core';
import type { EmailRow, Filing, Person } from '@fulvet/contract';
import type { CompiledRulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { Tx } from '../base/db/database';

/** What a list and a history show of an email alike. */
export const shownRow = z.object({
  id: z.number(),
  sent_at: moment,
  direction: direction.nullable(),
  outcome: outcome.nullable(),
  mail_class: mailClass,
  visibility: shareLevel,
  conversation_id: z.number(),
  mailboxes: z.array(z.string()).nullable(),
  filings: json<Filing[]>().nullable(),
  subject: z.string().nullable(),
  people: json<{ role: Person['role']; address: string; name: string }[]>().nullable(),
  recipient_count: z.number(),
});

const listedRow = shownRow.extend({
  external_domains: z.array(z.string()),
  has_problems: z.boolean(),
  preview: z.string().nullable(),
  attachment_count: z.number().nullable(),
});
type ListedRow = z.infer<typeof listedRow>;

const SHOWN_RECIPIENTS = 4;

/** The list rows of emails, in the order of the ids; one that the reader may not know of is left out. */
export async function emailRows(tx: Tx, ids: readonly number[], rulebook: CompiledRulebook): Promise<EmailRow[]> {
  if (ids.length === 0) return [];
  const rows = await rowsOf(
    tx,
    listedRow,
    sql`
    SELECT e.id, e.sent_at, e.direction, e.outcome, e.mail_class, e.visibility, e.conversation_id, e.external_domains, e.problems <> '[]'::jsonb AS has_problems,
      (SELECT array_agg(DISTINCT m.address) FROM sightings s JOIN mailboxes m ON m.id = s.mailbox_id WHERE s.email_id = e.id) AS mailboxes,
      ${filingsOf(sql`e.id`)} AS filings, c.subject, c.preview, c.attachment_count, p.people, coalesce(p.recipient_count, 0) AS recipient_count
    FROM unnest(${sql.param([...ids])}::bigint[]) WITH ORDINALITY AS n(id, place) JOIN emails e ON e.id = n.id LEFT JOIN email_contents c ON c.email_id = e.id LEFT JOIN LATERAL (${peopleOf(sql`e.id`, SHOWN_RECIPIENTS + 1)}) p ON true ORDER BY n.place`,
  );
  return rows.map((row) => ({
    id: row.id,
    at: row.sent_at,
    direction: row.direction,
    outcome: row.outcome,
    mailClass: row.mail_class,
    visibility: row.visibility,
    conversationId: row.conversation_id,
    mailboxes: row.mailboxes ?? [],
    externalDomains: row.external_domains,
    hasProblems: row.has_problems,
    filings: row.filings ?? [],
    content: row.subject === null ? null : contentOf(row, rulebook),
  }));
}

function contentOf(row: ListedRow, rulebook: CompiledRulebook): EmailRow['content'] {
  const people = (row.people ?? []).map((person) => asPerson(person, rulebook));
  return {
    subject: row.subject ?? '',
    preview: row.preview ?? '',
    from: people.find((person) => person.role === 'from') ?? null,
    to: people.filter((person) => person.role !== 'from').slice(0, SHOWN_RECIPIENTS),
    recipientCount: row.recipient_count,
    attachmentCount: row.attachment_count ?? 0,
  };
}

export function asPerson(item: { role: Person['role']; address: string; name: string }, rulebook: CompiledRulebook): Person {
  return {
    role: item.role,
    address: item.address,
    name: item.name,
    ours: rulebook.isOurs(item.address, domainOf(item.address)),
  };
}

/** SQL for who wrote an email and to whom, the sender first, and how many it went to in all: `people` (JSON, at most as many as asked for) and `recipient_count`. */
export function peopleOf(emailId: SQL, atMost: number): SQL {
  return sql`SELECT json_agg(json_build_object('role', q.role, 'address', q.address, 'name', q.name) ORDER BY q.nth) FILTER (WHERE q.nth <= ${atMost}) AS people, (count(DISTINCT q.address) FILTER (WHERE q.role <> 'from'))::int AS recipient_count
    FROM (SELECT role, address, name, row_number() OVER (ORDER BY role = 'from' DESC, role = 'to' DESC, position) AS nth FROM participants WHERE email_id = ${emailId} AND role IN ('from', 'to', 'cc', 'bcc')) q`;
}

/** SQL for the filings of an email as JSON, with the records' names. */
export function filingsOf(emailId: ReturnType<typeof sql>): ReturnType<typeof sql> {
  return sql`(SELECT json_agg(json_build_object('kind', f.kind, 'id', f.record_id, 'rule', f.rule, 'created', f.created, 'name', coalesce(r.name, '')) ORDER BY f.rule = ${RULES.principal} DESC, array_position(ARRAY['account', 'deal', 'own', 'contact', 'lead'], f.kind), f.record_id)
    FROM filings f LEFT JOIN records r ON r.kind = f.kind AND r.id = f.record_id
    WHERE f.email_id = ${emailId})`;
}
