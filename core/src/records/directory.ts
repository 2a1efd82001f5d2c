import { domainOf } from '../address/address';
import { isNearDomain, keptKeys, nearKeys } from '../domain/nearDomain';
import type { RecordKind } from '../facts/recordKind';
import { companyKey, companyKeyOfDomain } from '../person/companyName';
import { nameKey } from '../person/nameKey';
import { codeKey, codeKeyLength } from './codeKey';
import { placeOfNumber } from './inOrder';
import { KnownPerson } from './knownPerson';
import { OwnRecords } from './ownRecords';
import type { AccountRecord, DealRecord, OwnRecord, PersonRecord } from './recordTypes';

export type { AccountRecord, DealRecord, OwnRecord, PersonRecord } from './recordTypes';

export interface DirectoryData {
  people: Iterable<PersonRecord>;
  accounts: Iterable<AccountRecord>;
  deals: Iterable<DealRecord>;
  /** Records of kinds that the workspace defines. */
  own?: Iterable<OwnRecord>;
  /** Accounts of contacts with an address at a domain, beside those of `people`. */
  accountsByColleagues?: Iterable<{ domain: string; accountId: number }>;
  /** When people’s emails with an address were sent, milliseconds; only where a rule asks how many there are. */
  exchanges?: ReadonlyMap<string, readonly number[]>;
  /** Comparable addresses that do not exist, as delivery reports say, and from which nothing ever came. */
  undeliverable?: ReadonlySet<string>;
}

/**
 * Answers who an address is, whose a domain is and which deals are theirs. Filled for a batch or from the whole; records
 * that are created while deciding are added and known to the emails that follow.
 */
export class Directory {
  private readonly byAddress = new Map<string, PersonRecord[]>();
  private readonly byDomain = new Map<string, AccountRecord[]>();
  private readonly accountById = new Map<number, AccountRecord>();
  private readonly dealsByPerson = { contact: new Map<number, DealRecord[]>(), lead: new Map<number, DealRecord[]>() };
  private readonly dealsByAccount = new Map<number, DealRecord[]>();
  private readonly dealByCode = new Map<string, DealRecord>();
  /** By the code however it is written; null where that tells several apart. */
  private readonly dealByCodeKey = new Map<string, DealRecord | null>();
  /** How long the keys of codes are: most words of a subject can be no code by their length alone. */
  private readonly codeLengths: boolean[] = [];
  private readonly dealById = new Map<number, DealRecord>();
  /** Records of kinds that the workspace defines. */
  readonly own: OwnRecords;
  private readonly personIds = { contact: new Set<number>(), lead: new Set<number>() };

  /** Made when it is first asked for. */
  private byName: Map<string, PersonRecord[]> | null = null;
  /** Accounts of the contacts with an address at a domain. Made when it is first asked for, and only where an account has no domain. */
  private colleagues: Map<string, Set<number>> | null = null;
  private readonly colleaguesElsewhere: readonly { domain: string; accountId: number }[];
  /** Accounts without a domain by the key of their name; null where several have it. */
  private readonly domainlessByName = new Map<string, AccountRecord | null>();
  /** Domains of accounts by the keys of {@link keptKeys}. Made when it is first asked for. */
  private nearDomains: Map<string, string[]> | null = null;
  private readonly exchanges: Map<string, readonly number[]>;
  private readonly undeliverable: ReadonlySet<string>;

  constructor(data: DirectoryData) {
    this.own = new OwnRecords(data.own ?? NONE);
    this.undeliverable = data.undeliverable ?? NO_ADDRESSES;
    this.exchanges = new Map(data.exchanges);
    this.colleaguesElsewhere = [...(data.accountsByColleagues ?? [])];
    for (const person of data.people) this.addPerson(person);
    for (const account of data.accounts) this.addAccount(account);
    for (const deal of data.deals) this.addDeal(deal);
    // A code that another deal has now is that deal's.
    for (const deal of this.dealById.values())
      for (const code of deal.formerCodes ?? NONE) if (!this.dealWithCode(code)) this.noteCode(code, deal);
  }

  addPerson(record: PersonRecord): void {
    const person = new KnownPerson(record);
    this.personIds[person.kind].add(person.id);
    for (const address of person.addresses) append(this.byAddress, address, person);
    if (this.colleagues) noteColleague(this.colleagues, person);
    if (this.byName) append(this.byName, nameKey(person.name), person);
  }

  /** Contacts and leads of this name, however it is written. */
  peopleNamed(name: string): readonly PersonRecord[] {
    if (!this.byName) {
      this.byName = new Map();
      for (const person of new Set([...this.byAddress.values()].flat())) append(this.byName, nameKey(person.name), person);
    }
    return this.byName.get(nameKey(name)) ?? NONE;
  }

  addAccount(account: AccountRecord): void {
    this.accountById.set(account.id, account);
    if (account.domains.length === 0) {
      const key = companyKey(account.name);
      const known = this.domainlessByName.get(key);
      this.domainlessByName.set(key, known === undefined || known?.id === account.id ? account : null);
    }
    for (const domain of account.domains) {
      append(this.byDomain, domain, account);
      if (this.nearDomains) noteNear(this.nearDomains, domain);
    }
  }

  /** The account one of whose domains differs from this one by a letter, where no account has this one; none where several do. */
  accountNear(domain: string): AccountRecord | undefined {
    if (this.accountsOfDomain(domain).length > 0) return undefined;
    if (!this.nearDomains) {
      this.nearDomains = new Map();
      for (const known of this.byDomain.keys()) noteNear(this.nearDomains, known);
    }
    const found = new Set<AccountRecord>();
    for (const key of nearKeys(domain))
      for (const known of this.nearDomains.get(key) ?? NONE)
        if (isNearDomain(domain, known)) for (const account of this.byDomain.get(known) ?? NONE) found.add(account);
    const [account, ...others] = found;
    return others.length === 0 ? account : undefined;
  }

  private addDeal(deal: DealRecord): void {
    this.dealById.set(deal.id, deal);
    deal.activity.sort((first, second) => first - second);
    if (deal.accountId !== null) append(this.dealsByAccount, deal.accountId, deal);
    if (deal.code) this.noteCode(deal.code, deal);
    for (const person of deal.people) {
      const kind = person.startsWith('lead:') ? 'lead' : 'contact';
      append(this.dealsByPerson[kind], Number(person.slice(kind.length + 1)), deal);
    }
  }

  /** Contacts, then leads, with this comparable address. */
  peopleAt(address: string): readonly PersonRecord[] {
    return this.byAddress.get(address) ?? NONE;
  }

  account(id: number): AccountRecord | undefined {
    return this.accountById.get(id);
  }

  deal(id: number): DealRecord | undefined {
    return this.dealById.get(id);
  }

  /** Whether this record is there. */
  has(kind: RecordKind, id: number): boolean {
    if (kind === 'account') return this.accountById.has(id);
    if (kind === 'own') return this.own.get(id) !== undefined;
    return kind === 'deal' ? this.dealById.has(id) : this.personIds[kind].has(id);
  }

  /** The accounts that own the domain or, failing that, the nearest domain above it. More than one: a shared domain. */
  accountsOfDomain(domain: string): readonly AccountRecord[] {
    return nearestAbove(this.byDomain, domain) ?? NONE;
  }

  /**
   * The account without a domain of its own to which a domain belongs: with which everyone on record is who has an address there, or at
   * the nearest domain above it; else the only one whose name the domain has. Of a public mail provider it tells nothing.
   */
  accountWithoutDomain(domain: string): { account: AccountRecord; by: 'colleagues' | 'name' } | undefined {
    if (this.domainlessByName.size === 0) return undefined;
    this.colleagues ??= this.allColleagues();
    const accounts = nearestAbove(this.colleagues, domain);
    if (accounts !== undefined) {
      const [id = 0, ...others] = accounts;
      const account = others.length === 0 ? this.accountById.get(id) : undefined;
      return account?.domains.length === 0 ? { account, by: 'colleagues' } : undefined;
    }
    const key = companyKeyOfDomain(domain);
    const account = key.length < SHORT_NAME ? null : this.domainlessByName.get(key);
    return account ? { account, by: 'name' } : undefined;
  }

  private allColleagues(): Map<string, Set<number>> {
    const all = new Map<string, Set<number>>();
    for (const { domain, accountId } of this.colleaguesElsewhere) addTo(all, domain, accountId);
    for (const people of this.byAddress.values()) for (const person of people) noteColleague(all, person);
    return all;
  }

  /**
   * The account for which a person acted in an email. An address at the domain of an account that they are or were with tells it, as
   * does one at another account's domain where they have an address at their own, too: they wrote as someone there. Else it is the account
   * that they were with at that time.
   */
  accountOf(person: PersonRecord, from: { domain: string }, at: number): AccountRecord | undefined {
    const formers = person.formerAccounts ?? NONE;
    const former = formers.length === 0 ? undefined : formers.find((item) => at < item.until && this.accountById.has(item.accountId));
    const { accountId } = person;
    if (accountId !== null && (formers.length > 0 || person.addresses.length > 1)) {
      const [owner, ...others] = this.accountsOfDomain(from.domain);
      const theirs = (id: number): boolean => id === accountId || formers.some((item) => item.accountId === id);
      if (owner && others.length === 0 && (theirs(owner.id) || this.hasAddressAt(person, accountId))) return owner;
    }
    if (former) return this.accountById.get(former.accountId);
    if (!(person instanceof KnownPerson)) return accountId === null ? undefined : this.accountById.get(accountId);
    if (accountId !== null) person.account ??= this.accountById.get(accountId);
    return person.account;
  }

  private hasAddressAt(person: PersonRecord, accountId: number): boolean {
    return person.addresses.some((address) => this.accountsOfDomain(domainOf(address)).some((it) => it.id === accountId));
  }

  dealsOf(person: PersonRecord): readonly DealRecord[] {
    if (person instanceof KnownPerson) return (person.deals ??= this.dealsByPerson[person.kind].get(person.id) ?? NONE);
    return this.dealsByPerson[person.kind].get(person.id) ?? NONE;
  }

  dealsOfAccount(id: number): readonly DealRecord[] {
    return this.dealsByAccount.get(id) ?? NONE;
  }

  /** Whether a delivery report says that an address does not exist. */
  isUndeliverable(address: string): boolean {
    return this.undeliverable.has(address);
  }

  /** How many emails of people there are with an address up to a time, milliseconds. */
  emailsWith(address: string, until: number): number {
    return (this.exchanges.get(address) ?? NONE).filter((at) => at <= until).length;
  }

  /** Learns that an email of this time with these addresses came in, or went, beside those that the directory was made of. */
  noteExchange(addresses: readonly string[], at: number, cameIn: boolean): void {
    for (const address of addresses) {
      const others = (this.exchanges.get(address) ?? NONE).filter((value) => value !== at);
      this.exchanges.set(address, cameIn ? [...others, at] : others);
    }
  }

  /** Learns that an email of this time is filed under other deals beyond doubt than when the directory was made. */
  noteDealActivity(before: ReadonlySet<number>, now: ReadonlySet<number>, at: number): void {
    for (const id of now) if (!before.has(id)) this.changeActivity(id, at, true);
    for (const id of before) if (!now.has(id)) this.changeActivity(id, at, false);
  }

  private changeActivity(dealId: number, at: number, isMore: boolean): void {
    const activity = this.dealById.get(dealId)?.activity;
    if (!activity) return;
    const place = placeOfNumber(activity, at);
    if (isMore) activity.splice(place, 0, at);
    else if (activity[place] === at) activity.splice(place, 1);
  }

  /** The deal with this code: as it is written, else the only one whose code has these letters and digits. */
  dealWithCode(code: string): DealRecord | undefined {
    const length = codeKeyLength(code);
    if (length !== null && !this.codeLengths[length]) return undefined;
    return this.dealByCode.get(code.toUpperCase()) ?? this.dealByCodeKey.get(codeKey(code)) ?? undefined;
  }

  private noteCode(code: string, deal: DealRecord): void {
    this.dealByCode.set(code.toUpperCase(), deal);
    const key = codeKey(code);
    this.codeLengths[key.length] = true;
    const known = this.dealByCodeKey.get(key);
    this.dealByCodeKey.set(key, known === undefined || known === deal ? deal : null);
  }
}

const NONE: readonly never[] = [];
const NO_ADDRESSES: ReadonlySet<string> = new Set();

function noteNear(near: Map<string, string[]>, domain: string): void {
  for (const key of keptKeys(domain)) append(near, key, domain);
}

/** Names that are shorter are those of many. */
const SHORT_NAME = 5;

function noteColleague(colleagues: Map<string, Set<number>>, { kind, accountId, addresses }: PersonRecord): void {
  if (kind !== 'contact' || accountId === null) return;
  for (const address of addresses) addTo(colleagues, domainOf(address), accountId);
}

function addTo(sets: Map<string, Set<number>>, key: string, value: number): void {
  const known = sets.get(key);
  if (known) known.add(value);
  else sets.set(key, new Set([value]));
}

/** What is noted of a domain or, failing that, of the nearest above it. */
function nearestAbove<T>(noted: ReadonlyMap<string, T>, domain: string): T | undefined {
  let at = 0;
  for (;;) {
    const found = noted.get(at === 0 ? domain : domain.slice(at));
    if (found !== undefined) return found;
    at = domain.indexOf('.', at) + 1;
    // The last label alone is no one's.
    if (at === 0 || !domain.includes('.', at)) return undefined;
  }
}

function append<K, V>(map: Map<K, V[]>, key: K, value: V): void {
  const list = map.get(key);
  if (list) list.push(value);
  else map.set(key, [value]);
}
