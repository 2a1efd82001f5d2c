import type { AccountRecord, DealRecord, PersonRecord } from './recordTypes';

/** A person as the directory holds them: with their account and their deals, once these were looked up. */
export class KnownPerson implements PersonRecord {
  readonly kind: PersonRecord['kind'];
  readonly id: number;
  readonly name: string;
  readonly accountId: number | null;
  readonly formerAccounts: PersonRecord['formerAccounts'];
  readonly addresses: readonly string[];
  readonly originEmailId: number | null;
  readonly own: PersonRecord['own'];
  account: AccountRecord | undefined = undefined;
  deals: readonly DealRecord[] | undefined = undefined;

  constructor({ kind, id, name, accountId, formerAccounts, addresses, originEmailId, own }: PersonRecord) {
    this.kind = kind;
    this.id = id;
    this.name = name;
    this.accountId = accountId;
    this.formerAccounts = formerAccounts;
    this.addresses = addresses;
    this.originEmailId = originEmailId;
    this.own = own;
  }
}
