import type { DealRecord, Directory, PersonRecord } from '../records/directory';
import { mayConcern, wasOpen } from '../records/dealTimes';
import type { Participant } from '../emails/emailFacts';
import type { Direction } from '../facts/types';
import type { CompiledRulebook } from '../rulebook/compile';
import { RULES } from '../rulebook/schema';
import type { Filing } from './types';

export const NO_DEALS: readonly DealRecord[] = [];

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

/** All deals of these people and of the accounts that the email stands under, whenever they were open, in order of id. */
export function dealsThatFit(
  people: readonly PersonRecord[],
  filings: readonly Filing[],
  accountsOfNew: readonly number[],
  directory: Directory,
): readonly DealRecord[] {
  let found: readonly DealRecord[] = NO_DEALS;
  let own: DealRecord[] | null = null;
  const take = (deals: readonly DealRecord[]): void => {
    if (deals.length === 0) return;
    // Most emails lead to one list of deals, which is then that of the directory.
    if (found.length === 0) return void (found = deals);
    for (const deal of deals) {
      if (found.includes(deal)) continue;
      own ??= [...found];
      own.push(deal);
      found = own;
    }
  };
  for (const person of people) take(directory.dealsOf(person));
  for (const { kind, id } of filings) if (kind === 'account') take(directory.dealsOfAccount(id));
  for (const id of accountsOfNew) take(directory.dealsOfAccount(id));
  return found.length < 2 ? found : [...found].sort((first, second) => first.id - second.id);
}

/** Whether an account stands there by the people of the email; a rule of one's own, or a person, may have put it under others. */
const isOfPeople = ({ kind, rule }: Filing): boolean =>
  kind === 'account' && (rule === RULES.accountByPerson || rule === RULES.accountByDomain);

/** The accounts that the people of an email are with. */
export function accountsOfPeople(filings: readonly Filing[], accountsOfNew: readonly number[]): number[] {
  const found = [...accountsOfNew];
  for (const filing of filings) if (isOfPeople(filing) && !accountsOfNew.includes(filing.id)) found.push(filing.id);
  return found;
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

/**
 * Whether an email with people of several accounts is one customer's all the same: they have a deal in common, or one of two accounts only gets a
 * copy of what goes to, or comes from, the people of a deal.
 */
export function isOneCustomers(
  deals: readonly DealRecord[],
  accounts: readonly number[],
  people: readonly PersonRecord[],
  externals: readonly Participant[],
  direction: Direction,
  directory: Directory,
  rulebook: Pick<CompiledRulebook, 'personKey'>,
): boolean {
  if (deals.length === 0) return false;
  const isOn = (deal: DealRecord, account: number): boolean =>
    deal.accountId === account ||
    people.some((person) => person.accountId === account && deal.people.includes(`${person.kind}:${person.id}`));
  if (deals.some((deal) => accounts.every((account) => isOn(deal, account)))) return true;
  if (accounts.length > 2) return false;
  // Who writes, or is written to; others get a copy.
  const role = direction === 'received' ? 'from' : 'to';
  const first = externals.filter((external) => external.role === role);
  if (first.length === 0) return false;
  const written = first.map((external) => directory.peopleAt(rulebook.personKey(external.address)));
  return deals.some((deal) =>
    written.every((known) =>
      known.some((person) => person.accountId === deal.accountId || deal.people.includes(`${person.kind}:${person.id}`)),
    ),
  );
}
