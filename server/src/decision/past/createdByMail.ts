import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import type { Creation } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Database, Tx } from '../../base/db/database';
import { BY_HAND } from '../../records/byHand';
import { whatDependsOn } from '../../records/whatDependsOn';
import type { DecidedEmail } from '../decideInOrder';
import type { MadeRecord, SpanEmails } from './decidePast';

/** Which email creates a record by what rule, where a run took the records that mail created as not there. */
export class CreatedAgain {
  private readonly by = new Map<string, { emailId: number; rule: string }>();

  /** @param setAside the records that are taken as not there */
  constructor(readonly setAside: readonly MadeRecord[]) {}

  /** @param wanted whether the records that mail of the span created are to be taken as not there; else none is */
  static async of(database: Database, wanted: boolean, span: SpanEmails): Promise<CreatedAgain> {
    return new CreatedAgain(wanted ? await database.work((tx) => madeByMail(tx, span), { accessMode: 'read only' }) : []);
  }

  /** A pass begins; what the one before created is void. */
  begin(): void {
    this.by.clear();
  }

  note(decided: readonly DecidedEmail[]): void {
    for (const { email, decision } of decided)
      for (const creation of decision.creations)
        if (creation.id > 0) this.by.set(keyOf(creation), { emailId: email.facts.id, rule: creation.rule });
  }

  /** Those that nothing creates any more. */
  gone(): readonly MadeRecord[] {
    return this.setAside.filter((record) => !this.isAgain(record));
  }

  isAgain(record: MadeRecord): boolean {
    return this.by.has(keyOf(record));
  }

  /** Those that another email creates than the one from which they were. */
  moved(): (MadeRecord & { rule: string })[] {
    return this.setAside.flatMap((record) => {
      const by = this.by.get(keyOf(record));
      return by && by.emailId !== record.emailId ? [{ ...record, ...by }] : [];
    });
  }
}

const keyOf = ({ kind, id }: Pick<Creation | MadeRecord, 'kind' | 'id'>): string => `${kind}:${id}`;

const createdRow = z.object({ id: z.number(), via: z.array(z.string()), email_id: z.number() });

/** The records that mail of the span created, and that no one has touched since: nothing but mail has come to depend on them. People first. */
async function madeByMail(tx: Tx, span: SpanEmails): Promise<MadeRecord[]> {
  const contacts = await madeOf(tx, span, 'contact', []);
  const leads = await madeOf(tx, span, 'lead', []);
  const accounts = await madeOf(
    tx,
    span,
    'account',
    contacts.map((contact) => contact.id),
  );
  return [...contacts, ...leads, ...accounts];
}

async function madeOf(tx: Tx, span: SpanEmails, kind: MadeRecord['kind'], without: readonly number[]): Promise<MadeRecord[]> {
  const via =
    kind === 'account'
      ? sql`SELECT domain FROM account_domains WHERE account_id = t.id`
      : sql`SELECT address FROM person_addresses WHERE kind = ${kind} AND person_id = t.id`;
  const rows = await rowsOf(
    tx,
    createdRow,
    sql`
    SELECT t.id, t.origin_email_id AS email_id, ARRAY(${via}) AS via FROM ${sql.identifier(`${kind}s`)} t JOIN emails e ON e.id = t.origin_email_id
    WHERE t.origin_rule IS DISTINCT FROM ${BY_HAND} AND ${span.where} AND ${whatDependsOn(kind, { filings: false, without })} IS NULL ORDER BY t.id`,
  );
  return rows.flatMap(({ id, email_id: emailId, via: [first, ...more] }) =>
    first !== undefined && more.length === 0 && span.isInSpan(emailId) ? [{ kind, id, via: first, emailId }] : [],
  );
}
