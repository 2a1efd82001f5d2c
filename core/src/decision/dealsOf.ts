import type { DealRecord, Directory, PersonRecord } from '../records/directory';
import { mayConcern, wasOpen } from '../records/dealTimes';
import type { Filing } from './types';

export const NO_DEALS: readonly DealRecord[] = [];

export const MANY_ACCOUNTS = 3;

/** The deals, open when the email was sent, of the accounts that it stands under, in order of id. */
export function dealsOfAccounts(
  filings: readonly Filing[],
  accountsOfNew: readonly number[],
  at: number,
  leadDays: number,
  directory: Directory,
): readonly DealRecord[] {
  let found: DealRecord[] | null = null;
  const take = (account: number): void => {
    for (const deal of directory.dealsOfAccount(account)) {
      if (wasOpen(deal, at) && mayConcern(deal, at, leadDays) && !found?.includes(deal)) (found ??= []).push(deal);
    }
  };
  for (const filing of filings) if (filing.kind === 'account') take(filing.id);
  for (const id of accountsOfNew) take(id);
  return found === null ? NO_DEALS : (found as DealRecord[]).sort((first, second) => first.id - second.id);
}

/** Whether people of three accounts and more take part and have no deal in common: such an email is about none of theirs. */
export function isOfManyAccounts(deals: readonly DealRecord[], people: readonly PersonRecord[], directory: Directory): boolean {
  const byAccount = dealsByAccount(deals, people, directory);
  return byAccount.size >= MANY_ACCOUNTS && inAll(deals, byAccount).length === 0;
}

/** The deals of these people that were open when the email was sent, in order of id. */
export function openDeals(at: number, people: readonly PersonRecord[], directory: Directory): DealRecord[] {
  const found: DealRecord[] = [];
  for (const person of people) {
    for (const deal of directory.dealsOf(person)) {
      if (wasOpen(deal, at) && !found.includes(deal)) found.push(deal);
    }
  }
  return found.length < 2 ? found : found.sort((first, second) => first.id - second.id);
}

/** Those that had begun when the email was sent; all of them where none is known to have. */
export function openedBy(deals: readonly DealRecord[], at: number): readonly DealRecord[] {
  const begun = deals.filter((deal) => deal.openedAt === null || deal.openedAt <= at);
  return begun.length > 0 ? begun : deals;
}

/**
 * Where people of several accounts are on these deals, the deals in which each of these accounts has someone; else all. An email to a
 * customer and to a reseller who sits in many deals is about the deal that they share.
 */
export function dealsInCommon(deals: readonly DealRecord[], people: readonly PersonRecord[], directory: Directory): readonly DealRecord[] {
  const byAccount = dealsByAccount(deals, people, directory);
  if (byAccount.size < 2) return deals;
  const shared = inAll(deals, byAccount);
  return shared.length > 0 ? shared : deals;
}

/** By account, those of these deals on which someone of it is; accounts without any are left out. */
function dealsByAccount(deals: readonly DealRecord[], people: readonly PersonRecord[], directory: Directory): Map<number, Set<DealRecord>> {
  const candidates = new Set(deals);
  const byAccount = new Map<number, Set<DealRecord>>();
  for (const person of people) {
    const theirs = directory.dealsOf(person).filter((deal) => candidates.has(deal));
    if (person.accountId === null || theirs.length === 0) continue;
    byAccount.set(person.accountId, new Set([...(byAccount.get(person.accountId) ?? []), ...theirs]));
  }
  return byAccount;
}

const inAll = (deals: readonly DealRecord[], byAccount: ReadonlyMap<number, ReadonlySet<DealRecord>>): DealRecord[] =>
  deals.filter((deal) => [...byAccount.values()].every((theirs) => theirs.has(deal)));
