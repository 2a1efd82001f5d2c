import type { CompiledRulebook, DecisionFacts } from '@fulvet/core';
import { Directory, nameKey } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';
import type { TellsApart } from '../../base/db/personKey';
import type { MadeKind } from '../../records/recordSnapshot';
import { loadUndeliverable } from '../undeliverable';
import { loadExchanges } from './loadExchanges';
import { loadOwnRecords } from './loadOwnRecords';
import { loadAccounts, loadDeals, loadPeople, loadRecords } from './loadRecords';

/**
 * The directory of all records, and their names by kind and {@link nameKey}.
 *
 * @param rulebooks those by which emails may be decided
 * @param exchangesFor the rulebook that asks when there were emails with people, if it does
 * @param without records that are left out, as `kind:id`
 */
export async function loadWholeDirectory(
  tx: Tx,
  rulebooks: readonly CompiledRulebook[],
  { exchangesFor, without = new Set() }: { exchangesFor?: TellsApart | undefined; without?: ReadonlySet<string> } = {},
): Promise<{ directory: Directory; names: Map<string, string> }> {
  const { addresses: undeliverable, records } = await loadUndeliverable(tx, 'all', rulebooks, { filings: false });
  const isThere = (kind: MadeKind, id: number): boolean => !without.has(`${kind}:${id}`) && !records[kind].includes(id);
  const people = (await loadPeople(tx, sql`true`)).filter((person) => isThere(person.kind, person.id));
  const accounts = (await loadAccounts(tx, sql`true`)).filter((account) => isThere('account', account.id));
  const deals = await loadDeals(tx, sql`true`);
  const own = await loadOwnRecords(tx, sql`true`);
  const names = new Map<string, string>();
  for (const person of people) names.set(`contact ${nameKey(person.name)}`, person.name);
  for (const account of accounts) names.set(`account ${nameKey(account.name)}`, account.name);
  const exchanges = exchangesFor ? await loadExchanges(tx, exchangesFor, null) : new Map<string, number[]>();
  return { directory: new Directory({ people, accounts, deals, own, exchanges, undeliverable }), names };
}

/** All records that the decision of these emails may ask for. @param dealIds deals that conversations stand under */
export async function loadDirectory(
  tx: Tx,
  emails: readonly DecisionFacts[],
  rulebooks: readonly CompiledRulebook[],
  dealIds: readonly number[],
): Promise<Directory> {
  return new Directory(
    await loadRecords(
      tx,
      emails,
      rulebooks,
      dealIds.map((id) => ({ kind: 'deal', id })),
    ),
  );
}
