import { isNoReplyLocal, isRoleLocal } from '../address/address';
import type { Directory, PersonRecord } from '../directory/directory';
import { registrableDomain } from '../domain/domain';
import { companyNameFromDomain } from '../person/companyName';
import { personName } from '../person/personName';
import type { CompiledRulebook } from '../rulebook/compile';
import { RULES } from '../rulebook/schema';
import type { Resolved } from './match';
import type { Creation, DecisionFacts, Direction, Evidence, StopEntry } from './types';

export interface CreateVerdict {
  creations: Creation[];
  entry: StopEntry;
}

/** Hands out the ids of records that do not exist yet: -1, -2, … */
export interface TemporaryIds {
  next(): number;
}

/**
 * The stop that creates what is missing.
 *
 * For each unknown external participant: never from machine mail, never for role addresses and senders that take no
 * answers; an account only where the domain is a company's own. A record that this same email created before is named
 * again, so that deciding twice gives the same docket.
 */
export function create(
  facts: DecisionFacts,
  direction: Direction,
  unknown: readonly Resolved[],
  rulebook: CompiledRulebook,
  directory: Directory,
  ids: TemporaryIds,
): CreateVerdict {
  const policy = rulebook.source.create;
  const creations: Creation[] = [];
  const evidence: Evidence[] = [];
  for (const one of unknown) {
    const because = reasonNotTo(facts, direction, one, rulebook);
    if (because) {
      evidence.push({ fact: 'not created', address: one.address, because });
      continue;
    }
    const account = policy.people === 'contact' ? accountFor(facts.id, one.domain, rulebook, directory, ids) : null;
    if (account?.creation && !creations.some((known) => known.kind === 'account' && known.id === account.id)) {
      creations.push(account.creation);
      directory.addAccount({
        id: account.id,
        name: account.creation.name,
        domains: [account.creation.domain ?? ''],
        originEmailId: facts.id,
      });
      evidence.push({
        fact: 'created',
        kind: 'account',
        id: account.id,
        name: account.creation.name,
        via: account.creation.domain ?? '',
        confidence: 1,
      });
    }
    const person = newPerson(facts.id, one, account?.id ?? null, policy.people === 'lead' ? 'lead' : 'contact', rulebook, directory, ids);
    creations.push(person);
    evidence.push({
      fact: 'created',
      kind: person.kind,
      id: person.id,
      name: person.name,
      via: one.address,
      confidence: person.nameConfidence,
    });
  }
  const verdict = creations.length > 0 ? 'created' : 'nothing created';
  return { creations, entry: { stop: 'create', verdict, rule: unknown.length > 0 ? RULES.createPeople : null, evidence } };
}

function reasonNotTo(
  facts: DecisionFacts,
  direction: Direction,
  one: Resolved,
  rulebook: CompiledRulebook,
): Extract<Evidence, { fact: 'not created' }>['because'] | null {
  const policy = rulebook.source.create;
  if (policy.people === 'nothing') return 'policy';
  if (facts.mailClass !== 'person') return 'machine mail';
  const local = one.address.slice(0, one.address.lastIndexOf('@'));
  if (isRoleLocal(local) || isNoReplyLocal(local)) return 'role address';
  return policy.after === 'weWrote' && direction !== 'sent' ? 'not written to' : null;
}

function newPerson(
  emailId: number,
  one: Resolved,
  accountId: number | null,
  kind: 'contact' | 'lead',
  rulebook: CompiledRulebook,
  directory: Directory,
  ids: TemporaryIds,
): Creation {
  const key = rulebook.personKey(one.address);
  const existing = directory.peopleAt(key).find((person) => person.originEmailId === emailId && person.kind === kind);
  const guessed = personName(one.name, one.address);
  const record: PersonRecord = existing ?? {
    kind,
    id: ids.next(),
    name: guessed.name,
    accountId,
    addresses: [key],
    originEmailId: emailId,
  };
  if (!existing) directory.addPerson(record);
  const company = kind === 'lead' && !rulebook.isPublicProvider(one.domain) ? companyNameFromDomain(one.domain) : null;
  return {
    kind,
    id: record.id,
    name: record.name,
    nameConfidence: guessed.confidence,
    address: key,
    domain: kind === 'lead' && company !== null ? registrableDomain(one.domain) : null,
    accountId: record.accountId,
    company,
    rule: RULES.createPeople,
  };
}

interface AccountChoice {
  id: number;
  creation: Creation | null;
}

/** The account of a new contact: the one that owns the domain, or a new one; none for providers and shared domains. */
function accountFor(
  emailId: number,
  domain: string,
  rulebook: CompiledRulebook,
  directory: Directory,
  ids: TemporaryIds,
): AccountChoice | null {
  if (rulebook.isPublicProvider(domain)) return null;
  const owners = directory.accountsOfDomain(domain);
  if (owners.length > 1) return null;
  const owner = owners[0];
  if (owner && owner.originEmailId !== emailId) return { id: owner.id, creation: null };
  const registrable = registrableDomain(domain);
  if (registrable === null || (!owner && !rulebook.source.create.accounts)) return null;
  const id = owner?.id ?? ids.next();
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
      rule: RULES.createAccounts,
    },
  };
}
