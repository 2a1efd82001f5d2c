import type { CompiledRulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { idRow, rowsOf } from '../base/db/rows';
import type { FailureScope } from '../emails/store/deliveryFailures';
import { undeliverableAddresses } from '../emails/store/deliveryFailures';
import { BY_HAND } from '../records/byHand';
import type { MadeKind } from '../records/recordSnapshot';
import { removeRecords } from '../records/recordSnapshot';
import { whatDependsOn } from '../records/whatDependsOn';

/** Addresses that do not exist, and the records that were created for them and that no one has touched. */
export interface Undeliverable {
  addresses: ReadonlySet<string>;
  records: Record<MadeKind, number[]>;
}

/** @param filings whether a record under which emails are filed is left out */
export async function loadUndeliverable(
  tx: Tx,
  scope: FailureScope,
  rulebooks: readonly CompiledRulebook[],
  { filings }: { filings: boolean },
): Promise<Undeliverable> {
  const addresses = await undeliverableAddresses(tx, scope, rulebooks);
  if (addresses.size === 0) return { addresses, records: { contact: [], lead: [], account: [] } };
  const list = sql`${sql.param([...addresses])}::text[]`;
  const madeFor = async (kind: 'contact' | 'lead'): Promise<number[]> => {
    const rows = await rowsOf(
      tx,
      idRow,
      sql`SELECT t.id FROM ${sql.identifier(`${kind}s`)} t WHERE ${madeByMail} AND EXISTS (SELECT FROM person_addresses a WHERE a.kind = ${kind} AND a.person_id = t.id AND a.address = ANY(${list}))
        AND NOT EXISTS (SELECT FROM person_addresses a WHERE a.kind = ${kind} AND a.person_id = t.id AND a.address <> ALL(${list})) AND ${whatDependsOn(kind, { filings })} IS NULL ORDER BY t.id`,
    );
    return rows.map((row) => row.id);
  };
  const contact = await madeFor('contact');
  const lead = await madeFor('lead');
  const rows = await rowsOf(
    tx,
    idRow,
    sql`SELECT t.id FROM accounts t WHERE ${madeByMail} AND EXISTS (SELECT FROM contacts c WHERE c.account_id = t.id AND c.id = ANY(${sql.param(contact)}::bigint[])) AND ${whatDependsOn('account', { filings, without: contact })} IS NULL ORDER BY t.id`,
  );
  return { addresses, records: { contact, lead, account: rows.map((row) => row.id) } };
}

const madeByMail = sql`t.origin_email_id IS NOT NULL AND t.origin_rule IS DISTINCT FROM ${BY_HAND}`;

/** Takes back the records that were created for addresses which do not exist, once no email is filed under them. */
export async function takeBackUndeliverable(tx: Tx, addresses: readonly string[], rulebooks: readonly CompiledRulebook[]): Promise<void> {
  const { records } = await loadUndeliverable(tx, { addresses }, rulebooks, { filings: true });
  for (const kind of ['contact', 'lead', 'account'] as const) await removeRecords(tx, kind, records[kind]);
}
