import type { RecordKind } from '@fulvet/contract';
import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';

/**
 * Which emails belong to which record, as rows `record_id, email_id, conversation_id, sent_at, direction, mail_class`: those filed under it and, for an account,
 * those under its deals, of what the reader may know of. Every number about a record's mail, and its history, rests on this.
 *
 * @param ids the records, or null for all of the kind
 */
export function recordMail(kind: RecordKind, ids: readonly number[] | null): SQL {
  // Of some records it is asked in one function, which carries the conditions of the policies and asks them once; of all, by the policies themselves.
  if (ids !== null) return sql`SELECT * FROM fulvet_record_mail(${kind}, ${sql.param([...ids])}::bigint[])`;
  const own = sql`SELECT f.record_id, f.email_id FROM filings f WHERE f.kind = ${kind}`;
  const all =
    kind === 'account'
      ? sql`${own} UNION SELECT d.account_id, f.email_id FROM deals d JOIN filings f ON f.kind = 'deal' AND f.record_id = d.id WHERE d.account_id IS NOT NULL`
      : own;
  return sql`SELECT m.record_id, m.email_id, e.conversation_id, e.sent_at, e.direction, e.mail_class FROM (${all}) m JOIN emails e ON e.id = m.email_id`;
}
