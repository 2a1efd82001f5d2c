import { NO_MEMORY, remember } from '@fulvet/core';
import type { CompiledRulebook, ConversationMemory, Direction, RecordKind, Situation } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Sources } from '../../base/reading/sources';
import type { Tx } from '../../base/db/database';
import { filedUnder } from '../../emails/filingsText';
import { loadRecords } from './loadRecords';
import { loadFacts } from './loadFacts';

/**
 * Everything that one email is decided from, as it stands now.
 *
 * @param about records that are asked about beside those that the email itself leads to
 * @returns null when there is no such email
 */
export async function decisionInputsOf(
  tx: Tx,
  blobs: Sources,
  emailId: number,
  rulebook: CompiledRulebook,
  about: readonly { kind: RecordKind; id: number }[] = [],
): Promise<Situation | null> {
  const [email] = await loadFacts(tx, blobs, [emailId], true);
  if (!email) return null;
  const memory = await memoryBefore(tx, emailId);
  const more = memory.dealId === null ? about : [...about, { kind: 'deal' as const, id: memory.dealId }];
  return { facts: email.facts, rulebook, records: await loadRecords(tx, [email.facts], [rulebook], more), memory };
}

/** What the earlier emails of its conversation say, by what stands. */
async function memoryBefore(tx: Tx, emailId: number): Promise<ConversationMemory> {
  const { rows } = await tx.execute<{
    filings: string | null;
    direction: Direction | null;
    outcome: string | null;
    subject: string | null;
    at: number;
  }>(sql`
    SELECT e.direction, e.outcome, (extract(epoch FROM e.sent_at) * 1000)::float8 AS at, (SELECT c.subject FROM email_contents c WHERE c.email_id = e.id) AS subject, (SELECT string_agg(f.kind || ':' || f.record_id || ':' || f.rule, ',' ORDER BY f.kind, f.record_id) FROM filings f WHERE f.email_id = e.id) AS filings
    FROM emails e JOIN emails this ON this.id = ${emailId} AND e.conversation_id = this.conversation_id
    WHERE (e.sent_at, e.id) < (this.sent_at, this.id) ORDER BY e.sent_at, e.id`);
  return rows.reduce(
    (memory, { filings, subject, at, ...row }) => remember(memory, { ...row, filings: filedUnder(filings ?? '') }, { subject, at }),
    NO_MEMORY,
  );
}
