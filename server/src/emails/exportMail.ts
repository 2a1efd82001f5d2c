import type { ExportedDecision, User } from '@fulvet/contract';
import { mboxEntry, withoutBcc } from '@fulvet/core';
import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';
import type { Services } from '../base/services';
import { filingsOf } from './emailRows';

const PAGE = 500;

interface DecisionRow {
  [column: string]: unknown;
  id: number;
  us: number;
  message_id: string | null;
  sent_at: string;
  direction: ExportedDecision['direction'];
  mail_class: ExportedDecision['mailClass'];
  outcome: ExportedDecision['outcome'];
  conversation_id: number;
  visibility: ExportedDecision['visibility'];
  shared_teams: string[];
  existence_only: boolean;
  filings: { kind: ExportedDecision['filings'][number]['kind']; id: number; name: string; rule: string; created: boolean }[] | null;
}

interface MailRow {
  [column: string]: unknown;
  id: number;
  us: number;
  pack: string;
  position: number;
  length: number;
  size: number;
  sender: string | null;
  holds_bcc: boolean;
}

function exported(row: DecisionRow): ExportedDecision {
  const filings = row.filings ?? [];
  return {
    messageId: row.message_id,
    date: new Date(row.sent_at).toISOString(),
    direction: row.direction,
    mailClass: row.mail_class,
    outcome: row.outcome,
    conversation: row.conversation_id,
    filings: filings.map(({ kind, id, name, rule }) => ({ kind, id, name, rule })),
    created: filings.filter((filing) => filing.created).map(({ kind, id, name }) => ({ kind, id, name })),
    visibility: row.visibility,
    ...(row.shared_teams.length > 0 ? { sharedTeams: row.shared_teams } : {}),
    ...(row.existence_only ? { existenceOnly: true } : {}),
  };
}

/** Pages of emails in order of date, each after the last row of the one before and in a transaction of its own. */
async function* pages<Row extends DecisionRow | MailRow>(
  { database }: Services,
  user: User,
  select: (after: SQL) => SQL,
): AsyncGenerator<Row[]> {
  let after = sql`true`;
  for (;;) {
    const { rows } = await database.as(user.id, async (tx) => (await tx.execute(select(after))) as unknown as { rows: Row[] });
    if (rows.length > 0) yield rows;
    const last = rows.at(-1);
    if (!last || rows.length < PAGE) return;
    after = sql`(e.sent_at, e.id) > (to_timestamp(${String(last.us)}::numeric / 1000000), ${last.id}::bigint)`;
  }
}

const decisionPage = (after: SQL): SQL =>
  sql`SELECT e.id, (extract(epoch FROM e.sent_at) * 1000000)::int8 AS us, e.message_id, e.sent_at, e.direction, e.mail_class, e.outcome, e.conversation_id, e.visibility, e.shared_teams, e.existence_only, ${filingsOf(sql`e.id`)} AS filings FROM emails e WHERE ${after} ORDER BY e.sent_at, e.id LIMIT ${PAGE}`;

const mailPage = (
  after: SQL,
): SQL => sql`SELECT e.id, (extract(epoch FROM e.sent_at) * 1000000)::int8 AS us, b.pack, b.position, b.length, b.size, fulvet_holds_bcc(e.id) AS holds_bcc, (SELECT p.address FROM participants p WHERE p.email_id = e.id AND p.role = 'from' LIMIT 1) AS sender
  FROM emails e JOIN email_contents c ON c.email_id = e.id JOIN blobs b ON b.sha256 = e.blob WHERE ${after} ORDER BY e.sent_at, e.id LIMIT ${PAGE}`;

/** All decisions that a member may know of, as JSON Lines. */
export async function* decisionLines(services: Services, user: User): AsyncGenerator<string> {
  for await (const rows of pages<DecisionRow>(services, user, decisionPage))
    yield rows.map((row) => `${JSON.stringify(exported(row))}\n`).join('');
}

/** All mail that a member may read, as mbox. */
export async function* mboxEntries(services: Services, user: User): AsyncGenerator<Uint8Array> {
  for await (const rows of pages<MailRow>(services, user, mailPage)) {
    for (const row of rows) {
      // A source that cannot be read is left out; `fulvet verify` names it.
      const source = await services.blobs.get(row).catch(() => null);
      if (source) yield mboxEntry(row.holds_bcc ? source : withoutBcc(source), row.sender ?? '', row.us / 1000);
    }
  }
}
