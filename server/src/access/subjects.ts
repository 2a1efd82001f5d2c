import type { AccessScope, RecordKind } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { Tx } from '../db/database';
import { notFound } from '../http/errors';
import { recordMail } from '../records/recordMail';

/** What is asked for or shared: an email, its conversation, or all mail of a record. */
export interface Subject {
  scope: AccessScope;
  emailId: number | null;
  record: { kind: RecordKind; id: number } | null;
}

export const subjectOf = (order: {
  scope: AccessScope;
  emailId?: number | undefined;
  record?: { kind: RecordKind; id: number } | undefined;
}): Subject => ({ scope: order.scope, emailId: order.emailId ?? null, record: order.record ?? null });

/** A condition on `e`: the emails that it is about. */
export function emailsOfSubject({ scope, emailId, record }: Subject): SQL {
  if (scope === 'email') return sql`e.id = ${emailId}`;
  if (scope === 'conversation') return sql`e.conversation_id = (SELECT conversation_id FROM emails WHERE id = ${emailId})`;
  return sql`e.id IN (SELECT email_id FROM (${recordMail(record?.kind ?? 'account', [record?.id ?? 0])}) m)`;
}

/** Makes sure that the acting user may know of it. @throws 404 */
export async function demandKnown(tx: Tx, { scope, emailId, record }: Subject): Promise<void> {
  const { rowCount } =
    scope === 'record'
      ? await tx.execute(sql`SELECT FROM ${sql.identifier(`${record?.kind ?? 'account'}s`)} WHERE id = ${record?.id ?? 0}`)
      : await tx.execute(sql`SELECT FROM emails WHERE id = ${emailId}`);
  if (rowCount === 0) throw notFound(scope === 'record' ? (record?.kind ?? 'record') : 'email');
}

/** SQL for the name of a record, by columns of kind and id. */
export function recordName(kind: SQL, id: SQL): SQL {
  return sql`CASE ${kind} WHEN 'account' THEN (SELECT name FROM accounts WHERE id = ${id}) WHEN 'deal' THEN (SELECT name FROM deals WHERE id = ${id})
    WHEN 'contact' THEN (SELECT name FROM contacts WHERE id = ${id}) WHEN 'lead' THEN (SELECT name FROM leads WHERE id = ${id}) END`;
}
