import { domainOf } from '../address/address';
import { isByPeople } from '../emails/mailClass';
import type { AccountRecord, Directory, PersonRecord } from '../records/directory';
import { registrableDomain } from '../domain/domain';
import type { Participant } from '../emails/emailFacts';
import { personName } from '../person/personName';
import type { CompiledRulebook } from '../rulebook/compile';
import type { RuleContext } from '../rulebook/ruleContext';
import { RULES } from '../rulebook/schema';
import type { Resolved } from './match';
import type { PersonPolicy, TemporaryIds } from './newRecords';
import { accountFor, newPerson } from './newRecords';
import { ruleEvidence } from './ruleEvidence';
import type { Creation, Evidence, Question, StepEntry } from './types';

export interface CreateVerdict {
  creations: Creation[];
  /** Unknown people about whom a rule wants a person to be asked. */
  questions: Question[];
  entry: StepEntry;
}

/**
 * The step that creates what is missing.
 *
 * Each unknown participant is asked about: the first rule that speaks says what they become, else the step's default. For each unknown external participant: never from machine mail, never for role addresses and senders that take no
 * answers; an account only where the domain is a company's own. A record that this same email created before is named
 * again, so that deciding twice gives the same decision.
 */
export function create(
  context: RuleContext,
  unknown: readonly Resolved[],
  rulebook: CompiledRulebook,
  directory: Directory,
  ids: TemporaryIds,
): CreateVerdict {
  const { facts } = context;
  const creations: Creation[] = [];
  const questions: Question[] = [];
  const evidence: Evidence[] = [];
  // Where someone known writes from a new domain, it may be their company's, too: no second account is made of it.
  const moved = movedDomains(unknown, rulebook, directory);
  for (const resolved of companiesFirst(unknown, rulebook)) {
    const policy = policyFor(context, resolved, rulebook);
    if (policy.spoken) evidence.push(ruleEvidence(policy.spoken));
    const because = reasonNotTo(context, resolved, policy, rulebook, directory);
    const alike = because === null || because === 'asks' ? peopleAlike(resolved, rulebook, directory) : NOBODY;
    const [namesake] = alike;
    const near = because === null && !namesake ? accountMeant(context, resolved, rulebook, directory) : undefined;
    const like = namesake ?? (near && { kind: 'account' as const, id: near.id, name: near.name });
    if (because === 'asks' || namesake) {
      const candidates = alike.map(({ id, name }) => ({ id, name }));
      questions.push({ about: 'person', kind: namesake?.kind ?? 'contact', candidates, domain: resolved.address });
    }
    if (because || like) {
      evidence.push({
        fact: 'not created',
        address: resolved.address,
        ...(like ? { like: { kind: like.kind, id: like.id, name: like.name } } : {}),
        ...(alike.length > 1 ? { alike: alike.length } : {}),
        because: because ?? (namesake ? 'known name' : 'misspelled'),
      });
      continue;
    }
    const mayMake = policy.become === 'contact' && !moved.includes(registrableDomain(resolved.domain) ?? '');
    const account = mayMake ? accountFor(facts.id, resolved.domain, policy, rulebook, directory, ids) : null;
    if (account?.creation && !creations.some((known) => known.kind === 'account' && known.id === account.id)) {
      creations.push(account.creation);
      // Decided again, it is there already, perhaps renamed and with more domains by now.
      if (!directory.account(account.id))
        directory.addAccount({
          id: account.id,
          name: account.creation.name,
          domains: [account.creation.domain ?? ''],
          type: '',
          owner: null,
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
    const person = newPerson(facts.id, resolved, account?.id ?? null, policy, rulebook, directory, ids);
    creations.push(person);
    evidence.push({
      fact: 'created',
      kind: person.kind,
      id: person.id,
      name: person.name,
      via: resolved.address,
      confidence: person.nameConfidence,
    });
  }
  const verdict = creations.length > 0 ? 'created' : questions.length > 0 ? 'waits' : 'nothing created';
  const rule = evidence.find((item) => item.fact === 'rule')?.rule ?? (unknown.length > 0 ? RULES.createPeople : null);
  return { creations, questions, entry: { step: 'create', verdict, rule, evidence } };
}

function policyFor(context: RuleContext, resolved: Resolved, rulebook: CompiledRulebook): PersonPolicy {
  const focus = context.externals.find((it) => rulebook.personKey(it.address) === resolved.address);
  const spoken = focus ? rulebook.steps.create.first(context.about(focus)) : null;
  if (spoken) {
    const { then, id } = spoken.rule;
    return then.do === 'contact' || then.do === 'lead'
      ? { become: then.do, after: then.after, emails: then.emails, owner: then.owner, account: then.account, rule: id, spoken }
      : { become: then.do, after: 'firstEmail', emails: 1, owner: 'mailbox', account: false, rule: id, spoken };
  }
  const { people, after, emails, owner, accounts } = rulebook.source.create;
  return { become: people, after, emails, owner, account: accounts, rule: RULES.createPeople, spoken: null };
}

function reasonNotTo(
  { facts, direction, memory, externals }: RuleContext,
  resolved: Resolved,
  policy: PersonPolicy,
  rulebook: CompiledRulebook,
  directory: Directory,
): Extract<Evidence, { fact: 'not created' }>['because'] | null {
  if (policy.become === 'nothing') return policy.spoken ? 'rule' : 'policy';
  // No one becomes a lead, or a question, who is a contact since this very email was decided before.
  if (resolved.ofThis.length > 0 && resolved.ofThis.every((person) => person.kind !== policy.become)) return 'on record';
  if (!isByPeople(facts.mailClass)) return 'machine mail';
  if (directory.isUndeliverable(resolved.address)) return 'undeliverable';
  if (externals.length > rulebook.source.create.mostPeople) return 'too many people';
  if (rulebook.isRoleAddress(resolved.address)) return 'role address';
  // A colleague's own address at a provider: they send themselves what they want at home.
  if (rulebook.isPublicProvider(resolved.domain) && rulebook.isTeamName(personName(resolved.name, resolved.address).name))
    return 'team name';
  if (policy.become === 'ask') return 'asks';
  if (policy.after === 'weWrote' && direction !== 'sent') return 'not written to';
  if (policy.after === 'emails') return directory.emailsWith(resolved.address, facts.at) < policy.emails ? 'too few emails' : null;
  if (policy.after !== 'theyAnswered') return null;
  // Who was in copy of an answer has not answered.
  const answers = direction === 'received' && memory.weWrote && facts.participants.some((it) => isFrom(it, resolved, rulebook));
  return answers ? null : 'no answer';
}

const isFrom = ({ role, address }: Participant, resolved: Resolved, rulebook: CompiledRulebook): boolean =>
  role === 'from' && rulebook.personKey(address) === resolved.address;

/** People at companies before those at public providers: under the same name, these may be the same. */
function companiesFirst(unknown: readonly Resolved[], rulebook: CompiledRulebook): readonly Resolved[] {
  if (unknown.length < 2) return unknown;
  const isProvider = (resolved: Resolved): boolean => rulebook.isPublicProvider(resolved.domain);
  return [...unknown.filter((resolved) => !isProvider(resolved)), ...unknown.filter(isProvider)];
}

/**
 * The account that a new domain may be a misspelling of: it is one letter apart from one of the account's. Not where someone there answered us: then the
 * domain is someone's. So may be the domain of someone who passes themselves off as the account.
 */
function accountMeant(
  { direction, memory }: RuleContext,
  { domain, ofThis }: Resolved,
  rulebook: CompiledRulebook,
  directory: Directory,
): AccountRecord | undefined {
  if (ofThis.length > 0 || rulebook.isPublicProvider(domain) || (direction === 'received' && memory.weWrote)) return undefined;
  return directory.accountNear(domain) ?? directory.accountNear(registrableDomain(domain) ?? domain);
}

/** New domains from which known people seem to write by now. */
function movedDomains(unknown: readonly Resolved[], rulebook: CompiledRulebook, directory: Directory): readonly string[] {
  if (unknown.length < 2) return NO_DOMAINS;
  return unknown.flatMap((resolved) => {
    const domain = rulebook.isPublicProvider(resolved.domain) ? null : registrableDomain(resolved.domain);
    return domain !== null && peopleAlike(resolved, rulebook, directory).length > 0 ? [domain] : [];
  });
}

const NO_DOMAINS: readonly string[] = [];
const NOBODY: readonly PersonRecord[] = [];
/** No question names more people than can be answered by one key. */
const MOST_ALIKE = 9;

/**
 * The known people to one of whom an unknown address may belong: it writes under their full name, from a public provider, from their company, or
 * with their local part from a new company, which may be theirs under a new name. Never taken for one of them without asking.
 */
function peopleAlike(resolved: Resolved, rulebook: CompiledRulebook, directory: Directory): readonly PersonRecord[] {
  // Whom this email created before is that person, not like them.
  if (resolved.ofThis.length > 0) return NOBODY;
  const written = personName(resolved.name, resolved.address);
  if (written.confidence < 1 || !written.name.includes(' ')) return NOBODY;
  let named = directory.peopleNamed(written.name);
  if (named.length > 0 && !rulebook.isPublicProvider(resolved.domain)) {
    const company = registrableDomain(resolved.domain);
    // At the domain of another account it is someone who works there.
    const isNew = directory.accountsOfDomain(resolved.domain).length === 0 && !directory.accountWithoutDomain(resolved.domain);
    const local = `${resolved.address.slice(0, resolved.address.lastIndexOf('@'))}@`;
    const isTheirs = ({ accountId, addresses }: PersonRecord): boolean =>
      addresses.some(
        (address) => (isNew && accountId !== null && address.startsWith(local)) || registrableDomain(domainOf(address)) === company,
      );
    named = company === null ? NOBODY : named.filter(isTheirs);
  }
  const contacts = named.filter((person) => person.kind === 'contact');
  return (contacts.length > 0 ? contacts : named).slice(0, MOST_ALIKE);
}
