import { registrableDomain } from '../domain/domain';
import { companyNameFromDomain } from '../person/companyName';
import { personName } from '../person/personName';
import type { Directory, PersonRecord } from '../records/directory';
import type { CompiledRulebook } from '../rulebook/compile';
import type { Spoken } from '../rulebook/compiledStep';
import type { Action, AFTERS } from '../rulebook/rule';
import { RULES } from '../rulebook/schema';
import type { Resolved } from './match';
import type { Creation } from './types';

/** Hands out the ids of records that do not exist yet: -1, -2, … */
export interface TemporaryIds {
  /** @param via what the record is created for: a person's comparable address, an account's domain */
  next(kind: 'contact' | 'lead' | 'account', via: string): number;
}

/** What an unknown participant is to become, and by which rule. */
export interface PersonPolicy {
  become: 'contact' | 'lead' | 'nothing' | 'ask';
  after: (typeof AFTERS)[number];
  emails: number;
  owner: string;
  account: boolean;
  rule: string;
  spoken: Spoken<Action<'create'>> | null;
}

/** The person that an unknown participant becomes: the record that this email created before, or a new one. */
export function newPerson(
  emailId: number,
  resolved: Resolved,
  accountId: number | null,
  policy: PersonPolicy,
  rulebook: CompiledRulebook,
  directory: Directory,
  ids: TemporaryIds,
): Creation {
  const key = rulebook.personKey(resolved.address);
  const kind = policy.become === 'lead' ? 'lead' : 'contact';
  const existing = directory.peopleAt(key).find((person) => person.originEmailId === emailId && person.kind === kind);
  const guessed = personName(resolved.name, resolved.address);
  const record: PersonRecord = existing ?? {
    kind,
    id: ids.next(kind, key),
    name: guessed.name,
    accountId,
    addresses: [key],
    originEmailId: emailId,
  };
  if (!existing) directory.addPerson(record);
  const company = kind === 'lead' && !rulebook.isPublicProvider(resolved.domain) ? companyNameFromDomain(resolved.domain) : null;
  return {
    kind,
    id: record.id,
    name: record.name,
    nameConfidence: guessed.confidence,
    address: key,
    domain: kind === 'lead' && company !== null ? registrableDomain(resolved.domain) : null,
    accountId: record.accountId,
    company,
    owner: ownerFor(policy, record.accountId, directory),
    rule: policy.rule,
  };
}

/** The member who is to own a new record, or null for whoever has the email. */
function ownerFor({ owner }: PersonPolicy, accountId: number | null, directory: Directory): string | null {
  if (owner === 'mailbox') return null;
  if (owner !== 'account') return owner;
  return accountId === null ? null : (directory.account(accountId)?.owner ?? null);
}

interface AccountChoice {
  id: number;
  creation: Creation | null;
}

/** The account of a new contact: the one that owns the domain, or a new one; none for providers and shared domains. */
export function accountFor(
  emailId: number,
  domain: string,
  policy: PersonPolicy,
  rulebook: CompiledRulebook,
  directory: Directory,
  ids: TemporaryIds,
): AccountChoice | null {
  if (rulebook.isPublicProvider(domain)) return null;
  const owners = directory.accountsOfDomain(domain);
  if (owners.length > 1) return null;
  const owner = owners[0] ?? directory.accountWithoutDomain(domain)?.account;
  if (owner && owner.originEmailId !== emailId) return { id: owner.id, creation: null };
  const registrable = registrableDomain(domain);
  if (registrable === null || (!owner && !policy.account)) return null;
  const id = owner?.id ?? ids.next('account', registrable);
  const name = owner?.name ?? companyNameFromDomain(domain) ?? registrable;
  return {
    id,
    creation: {
      kind: 'account',
      id,
      name,
      nameConfidence: 1,
      address: null,
      domain: registrable,
      accountId: null,
      company: null,
      owner: ownerFor(policy, null, directory),
      rule: RULES.createAccounts,
    },
  };
}
