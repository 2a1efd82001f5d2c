import { addressKey } from '../address/address';
import { domainToAscii } from '../domain/domain';
import { DomainTrie } from '../domain/domainTrie';

/** One domain or address of a kept list. */
export interface KeptEntry {
  /** `local`: a part before the @, as the list of role addresses has them. */
  kind: 'domain' | 'address' | 'local';
  value: string;
  /** For a domain: without its sub-domains. */
  exactly: boolean;
}

/** A named, reusable list of domains or addresses, as rules refer to it. */
export interface KeptList {
  id: string;
  name: string;
  entries: Iterable<KeptEntry>;
}

/** A kept list made ready for looking up: the cost does not grow with its length. */
export class CompiledList {
  private readonly addresses = new Set<string>();
  private readonly locals = new Set<string>();
  private readonly domains = new DomainTrie<string>();

  constructor(
    readonly list: Pick<KeptList, 'id' | 'name'>,
    entries: Iterable<KeptEntry>,
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
