import { sql } from 'drizzle-orm';
import type { Tx } from '../db/database';
import { BY_HAND } from '../records/byHand';
import { whatDependsOn } from '../records/whatDependsOn';
import type { MadeRecord, SpanEmails } from './decidePast';

interface Row {
  [column: string]: unknown;
  id: number;
  via: string[];
  email_id: number;
}

/** The records that mail of the span created, and that nobody has touched since: nothing but mail has come to depend on them. People first. */
export async function madeByMail(tx: Tx, span: SpanEmails): Promise<MadeRecord[]> {
  const contacts = await madeOf(tx, span, 'contact', []);
  const leads = await madeOf(tx, span, 'lead', []);
  const accounts = await madeOf(
    tx,
    span,
    'account',
    contacts.map((one) => one.id),
  );
  return [...contacts, ...leads, ...accounts];
}

async function madeOf(tx: Tx, span: SpanEmails, kind: MadeRecord['kind'], without: readonly number[]): Promise<MadeRecord[]> {
  const via =
    kind === 'account'
      ? sql`SELECT domain FROM account_domains WHERE account_id = t.id`
      : sql`SELECT address FROM person_addresses WHERE kind = ${kind} AND person_id = t.id`;
  const { rows } = await tx.execute<Row>(sql`
    SELECT t.id, t.origin_email_id AS email_id, ARRAY(${via}) AS via FROM ${sql.identifier(`${kind}s`)} t JOIN emails e ON e.id = t.origin_email_id
    WHERE t.origin_rule IS DISTINCT FROM ${BY_HAND} AND ${span.where} AND ${whatDependsOn(kind, { filings: false, made: 0, without })} IS NULL ORDER BY t.id`);
  return rows.flatMap(({ id, email_id: emailId, via: [first, ...more] }) =>
    first !== undefined && more.length === 0 && span.isInSpan(emailId) ? [{ kind, id, via: first, emailId }] : [],
  );
}
