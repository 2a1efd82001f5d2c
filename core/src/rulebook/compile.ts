import { addressKey, domainOf, isListHost, isNoReplyLocal, isRoleLocal } from '../address/address';
import { domainToAscii } from '../domain/domain';
import type { RecordKind } from '../facts/recordKind';
import { nameKey } from '../person/nameKey';
import { DomainTrie, coversAny } from '../domain/domainTrie';
import { Memo } from '../domain/memo';
import type { MailClass } from '../emails/mailClass';
import { CompiledStep } from './compiledStep';
import { CompiledList } from './addressList';
import type { AddressList } from './addressList';
import type { Action } from './rule';
import type { KeepOutEntry, Rulebook } from './schema';

/** What stands outside the rulebook and is needed to compile it. */
export interface CompileContext {
  /** Addresses of users, their aliases and connected mailboxes. */
  teamAddresses: Iterable<string>;
  /** Names of users. */
  teamNames?: Iterable<string>;
  /** Domains of public mail providers. */
  publicProviders: ReadonlySet<string>;
  /** Local parts of role addresses, in place of those that are known by common use. */
  roleLocals?: ReadonlySet<string>;
  /** Address lists that rules refer to. */
  lists?: Iterable<AddressList>;
}

/** The rules of the five steps, ready to be asked. */
export interface CompiledSteps {
  keepOut: CompiledStep<Action<'keepOut'>>;
  takeIn: CompiledStep<Action<'takeIn'>>;
  match: CompiledStep<Action<'match'>>;
  create: CompiledStep<Action<'create'>>;
  share: CompiledStep<Action<'share'>>;
}

/** A rulebook made ready for deciding: sets and tries in place of lists. */
export interface CompiledRulebook {
  source: Rulebook;
  steps: CompiledSteps;
  /** Records that rules file under by name. */
  fixedRecords: readonly { kind: RecordKind; id: number }[];
  /** Something asks how many emails there are with a person. */
  needsExchanges: boolean;
  /** Some rule asks for the body's text. */
  needsText: boolean;
  /** Some rule asks about attachments. */
  needsAttachments: boolean;
  tagsTellApart: boolean;
  ownDomains: readonly string[];
  isOurs(address: string, domain: string): boolean;
  /** The entry that keeps this participant or its email out, or undefined; an address entry goes before a domain entry. */
  entryFor(address: string, domain: string): KeepOutEntry | undefined;
  isPublicProvider(domain: string): boolean;
  /** Whether an address names a function, or takes no answers. */
  isRoleAddress(address: string): boolean;
  /** Whether a colleague has this name, however it is written. */
  isTeamName(name: string): boolean;
  keepsOutClass(mailClass: MailClass): boolean;
  /** Whether there are any addresses that send what visitors write in a form. */
  hasFormAddresses: boolean;
  isFormAddress(address: string): boolean;
  /** The form in which addresses are compared under this rulebook. */
  personKey(address: string): string;
}

const NUMBER = /^[\d._-]+$/;

/**
 * Compiles a rulebook once, so that deciding an email does not depend on the length of its lists, and hardly on the number of rules.
 *
 * @throws {BadPattern} when a rule's pattern cannot be read
 */
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
  const forms = new Set(us.formAddresses.flatMap((written) => addressKey(written, options)?.key ?? []));
  const isOwn = coversAny(us.ownDomains.map(domainToAscii));

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
  const teamNames = new Set([...(context.teamNames ?? [])].map(nameKey).filter((key) => key.includes(' ')));
  const classes = new Set<MailClass>(keepOut.machineMail);

  // Most emails are with domains that were asked about before.
  const domains = new Memo((domain) => ({
    entry: entryByDomain.find(domain),
    provider: !removed.has(domain) && (added.has(domain) || context.publicProviders.has(domain)),
  }));
  const isPublicProvider = (domain: string): boolean => domains.get(domain).provider;
  const lists = new Map([...(context.lists ?? [])].map((list) => [list.id, new CompiledList(list, list.entries, personKey)]));
  const isRoleAddress = (address: string): boolean => {
    const local = address.slice(0, address.lastIndexOf('@'));
    const domain = domainOf(address);
    if (isRoleLocal(local, context.roleLocals) || isNoReplyLocal(local) || isListHost(domain)) return true;
    // A number names no one at a company; at a provider it may be someone's telephone.
    return NUMBER.test(local) && !isPublicProvider(domain);
  };
  const parts = { lists, personKey, isPublicProvider, isRoleAddress };
  const steps: CompiledSteps = {
    keepOut: new CompiledStep(keepOut.rules, parts),
    takeIn: new CompiledStep(rulebook.takeIn.rules, parts),
    match: new CompiledStep(rulebook.match.rules, parts),
    create: new CompiledStep(rulebook.create.rules, parts),
    share: new CompiledStep(rulebook.share.rules, parts),
  };

  return {
    source: rulebook,
    steps,
    hasFormAddresses: forms.size > 0,
    isFormAddress: (address) => forms.has(personKey(address)),
    fixedRecords: rulebook.match.rules.flatMap(({ then }) => (then.do === 'fileUnder' ? [{ kind: then.kind, id: then.id }] : [])),
    needsExchanges:
      rulebook.create.after === 'emails' || rulebook.create.rules.some(({ on, then }) => on && 'after' in then && then.after === 'emails'),
    needsAttachments: Object.values(steps).some((step) => step.needs('attachment')),
    needsText: Object.values(steps).some((step) => step.needs('body')),
    tagsTellApart: us.tagsTellApart,
    ownDomains: us.ownDomains,
    personKey,
    isOurs: (address, domain) => isOwn(domain) || ours.has(personKey(address)),
    entryFor: (address, domain) => entryByAddress.get(personKey(address)) ?? domains.get(domain).entry,
    isPublicProvider,
    isRoleAddress,
    isTeamName: (name) => teamNames.has(nameKey(name)),
    keepsOutClass: (mailClass) => classes.has(mailClass),
  };
}
