import { addressKey } from '../address/address';
import { domainToAscii } from '../domain/domain';
import { DomainTrie } from '../domain/domainTrie';

/** One domain or address of an address list. */
export interface AddressListEntry {
  /** `local`: a part before the @, as the list of role addresses has them. */
  kind: 'domain' | 'address' | 'local';
  value: string;
  /** For a domain: without its sub-domains. */
  exactly: boolean;
}

/** A named, reusable list of domains or addresses, as rules refer to it. */
export interface AddressList {
  id: string;
  name: string;
  entries: Iterable<AddressListEntry>;
}

/** An address list made ready for looking up: the cost does not grow with its length. */
export class CompiledList {
  private readonly addresses = new Set<string>();
  private readonly locals = new Set<string>();
  private readonly domains = new DomainTrie<string>();

  constructor(
    readonly list: Pick<AddressList, 'id' | 'name'>,
    entries: Iterable<AddressListEntry>,
    private readonly personKey: (address: string) => string,
  ) {
    for (const entry of entries) {
      if (entry.kind === 'domain') {
        const domain = domainToAscii(entry.value);
        this.domains.add(domain, domain, entry.exactly);
      } else if (entry.kind === 'local') this.locals.add(entry.value);
      else this.addresses.add(personKey(addressKey(entry.value, { tagsTellApart: true })?.key ?? entry.value));
    }
  }

  /** The entry that covers the address, or undefined. */
  find(address: string, domain: string): string | undefined {
    const key = this.personKey(address);
    if (this.addresses.has(key)) return key;
    const local = key.slice(0, key.lastIndexOf('@'));
    return this.locals.has(local) ? local : this.domains.find(domain);
  }
}
