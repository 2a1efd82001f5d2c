import { addressKey } from '../address/address';
import { domainToAscii } from '../domain/domain';
import { DomainTrie } from '../domain/domainTrie';
import type { MailClass } from '../message/mailClass';
import type { KeepOutEntry, Rulebook } from './schema';

/** What stands outside the rulebook and is needed to compile it. */
export interface CompileContext {
  /** Addresses of users, their aliases and connected mailboxes. */
  teamAddresses: Iterable<string>;
  /** Domains of public mail providers. */
  publicProviders: ReadonlySet<string>;
}

/** A rulebook made ready for deciding: sets and tries in place of lists. */
export interface CompiledRulebook {
  source: Rulebook;
  tagsTellApart: boolean;
  isOurs(address: string, domain: string): boolean;
  /** The entry that keeps this participant or its email out, or undefined; an address entry goes before a domain entry. */
  entryFor(address: string, domain: string): KeepOutEntry | undefined;
  isPublicProvider(domain: string): boolean;
  keepsOutClass(mailClass: MailClass): boolean;
  /** The form in which addresses are compared under this rulebook. */
  personKey(address: string): string;
}

/** Compiles a rulebook once, so that deciding an email does not depend on the length of its lists. */
export function compileRulebook(rulebook: Rulebook, context: CompileContext): CompiledRulebook {
  const { us, keepOut } = rulebook;
  const options = { tagsTellApart: us.tagsTellApart };
  const personKey = us.tagsTellApart
    ? (address: string): string => address
    : (address: string): string => (address.includes('+') ? (addressKey(address, options)?.key ?? address) : address);

  const ours = new Set<string>();
  for (const written of [...context.teamAddresses, ...us.sharedAddresses]) {
    const key = addressKey(written, options)?.key;
    if (key) ours.add(key);
  }
  const ownDomains = new DomainTrie<true>();
  for (const written of us.ownDomains) ownDomains.add(domainToAscii(written), true);

  const entryByAddress = new Map<string, KeepOutEntry>();
  const entryByDomain = new DomainTrie<KeepOutEntry>();
  for (const entry of keepOut.entries) {
    if (entry.kind === 'domain') entryByDomain.add(domainToAscii(entry.value), entry, entry.exactly);
    else {
      const key = addressKey(entry.value, options)?.key;
      if (key && !entryByAddress.has(key)) entryByAddress.set(key, entry);
    }
  }
  const added = new Set(us.providers.added);
  const removed = new Set(us.providers.removed);
  const classes = new Set<MailClass>(keepOut.machineMail);

  return {
    source: rulebook,
    tagsTellApart: us.tagsTellApart,
    personKey,
    isOurs: (address, domain) => ownDomains.find(domain) === true || ours.has(personKey(address)),
    entryFor: (address, domain) => entryByAddress.get(personKey(address)) ?? entryByDomain.find(domain),
    isPublicProvider: (domain) => !removed.has(domain) && (added.has(domain) || context.publicProviders.has(domain)),
    keepsOutClass: (mailClass) => classes.has(mailClass),
  };
}
