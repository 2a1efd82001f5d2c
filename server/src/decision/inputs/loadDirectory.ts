import type { CompiledRulebook, DecisionFacts } from '@fulvet/core';
import { Directory, nameKey } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';
import { untagged } from '../../base/db/untagged';
import { loadAccounts, loadDeals, loadPeople, loadRecords } from './loadRecords';

/**
 * The directory of all records, and their names by kind and {@link nameKey}.
 *
 * @param without records that are left out, as `kind:id`
 */
export async function loadWholeDirectory(
  tx: Tx,
  { withExchanges = false, without = new Set() }: { withExchanges?: boolean; without?: ReadonlySet<string> } = {},
): Promise<{ directory: Directory; names: Map<string, string> }> {
  const people = (await loadPeople(tx, sql`true`)).filter((person) => !without.has(`${person.kind}:${person.id}`));
  const accounts = (await loadAccounts(tx, sql`true`)).filter((account) => !without.has(`account:${account.id}`));
  const deals = await loadDeals(tx, sql`true`);
  const names = new Map<string, string>();
  for (const person of people) names.set(`contact ${nameKey(person.name)}`, person.name);
  for (const account of accounts) names.set(`account ${nameKey(account.name)}`, account.name);
  const exchanges = withExchanges ? await loadExchanges(tx, null) : new Map<string, number[]>();
  return { directory: new Directory({ people, accounts, deals, exchanges }), names };
}

/** All records that the decision of these emails may ask for. @param dealIds deals that conversations stand under */
export async function loadDirectory(
  tx: Tx,
  emails: readonly DecisionFacts[],
  rulebooks: readonly CompiledRulebook[],
  dealIds: readonly number[],
): Promise<Directory> {
  const asked = rulebooks.some((rulebook) => rulebook.needsExchanges) ? rulebooks[0] : undefined;
  const addresses = emails.flatMap((facts) =>
    facts.participants.map((participant) => asked?.personKey(participant.address) ?? participant.address),
  );
  return new Directory({
    exchanges: asked ? await loadExchanges(tx, [...new Set(addresses)]) : new Map(),
    ...(await loadRecords(
      tx,
      emails,
      rulebooks,
      dealIds.map((id) => ({ kind: 'deal', id })),
    )),
  });
}

/** When people's emails with these addresses were sent, by the address without its +tag; null: with all. */
async function loadExchanges(tx: Tx, addresses: readonly string[] | null): Promise<Map<string, number[]>> {
  const person = untagged(sql`p.address`);
  const { rows } = await tx.execute<{ address: string; times: number[] }>(sql`
    SELECT ${person} AS address, array_agg(DISTINCT (extract(epoch FROM e.sent_at) * 1000)::float8) AS times FROM participants p JOIN emails e ON e.id = p.email_id
    WHERE e.mail_class = 'person' AND p.role IN ('from', 'to', 'cc', 'bcc') AND ${addresses === null ? sql`true` : sql`${person} = ANY(${sql.param([...addresses])}::text[])`} GROUP BY 1`);
  return new Map(rows.map((row) => [row.address, row.times]));
}
