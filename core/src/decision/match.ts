import type { AccountRecord, Directory, PersonRecord } from '../records/directory';
import type { CompiledRulebook } from '../rulebook/compile';
import type { Action } from '../rulebook/rule';
import type { RuleContext } from '../rulebook/ruleContext';
import { RULES } from '../rulebook/schema';
import type { GestureVerdict } from './gestures';
import type { PinVerdict } from './pins';
import { ruleEvidence } from './ruleEvidence';
import type { Evidence, Filing, Question, StepEntry } from './types';
import { addFiling } from './addFiling';
import { matchOwn } from './matchOwn';
import { matchDeal } from './whichDeal';

/** An external participant and who that is. */
export interface Resolved {
  address: string;
  domain: string;
  name: string;
  people: readonly PersonRecord[];
  /** Records of this address that this very email created when it was decided before. */
  ofThis: readonly PersonRecord[];
  /** This email creates them, and no account for them. */
  isNew?: boolean;
}

export interface MatchVerdict {
  filings: Filing[];
  questions: Question[];
  entry: StepEntry;
}

/** The people whom an email creates, as far as its deal may rest on them. */
export interface Newcomers {
  accounts: readonly number[];
  /** Those whom it had created when it was decided before. */
  people: readonly PersonRecord[];
}

/** The step that files an email under the people it is with, their accounts, and a deal. */
export function match(
  resolved: readonly Resolved[],
  rulebook: CompiledRulebook,
  directory: Directory,
  context: RuleContext,
  gestures: GestureVerdict,
  pins: PinVerdict,
  newcomers: Newcomers,
): MatchVerdict {
  // A person's word comes first, and where it names the deal no other is looked for.
  const filings: Filing[] = [...pins.filings];
  for (const filing of gestures.filings) addFiling(filings, filing);
  const questions: Question[] = [...gestures.questions];
  const evidence: Evidence[] = [...pins.evidence, ...gestures.evidence];
  const spoken = rulebook.steps.match.all(context);
  const hasPins = context.facts.pins.length > 0;
  for (const item of spoken) {
    const { then, id } = item.rule;
    evidence.push(ruleEvidence(item));
    if (then.do === 'fileUnder' && directory.has(then.kind, then.id)) addFiling(filings, { kind: then.kind, id: then.id, rule: id });
    if (then.do === 'hold') questions.push({ about: 'hold', kind: 'deal', candidates: [], domain: item.rule.name || null });
  }
  const says = (what: Action<'match'>['do']): boolean => spoken.length > 0 && spoken.some((item) => item.rule.then.do === what);
  const dealIsSaid = pins.dealIsSaid || filings.some((filing) => filing.kind === 'deal') || says('neverDeals');

  for (const item of resolved) {
    if (item.people.length === 0 && !item.isNew) evidence.push({ fact: 'unknown', address: item.address });
    for (const person of item.people) {
      addFiling(filings, { kind: person.kind, id: person.id, rule: RULES.person });
      evidence.push({ fact: 'person', address: item.address, kind: person.kind, id: person.id, name: person.name });
    }
  }
  if (rulebook.source.match.account !== 'never' && !says('neverAccounts'))
    matchAccounts(resolved, rulebook, directory, filings, questions, evidence, context.facts.at);
  if (rulebook.source.match.deal !== 'never' && !dealIsSaid)
    matchDeal(context, peopleIn(resolved, newcomers), rulebook, directory, filings, questions, evidence, newcomers.accounts);

  if (!directory.own.isEmpty) matchOwn(context, peopleIn(resolved, newcomers), rulebook, directory, filings, evidence);

  const standing = hasPins ? filings.filter((filing) => !pins.isOff(filing.kind, filing.id)) : filings;
  const open = hasPins ? questions.filter((question) => !pins.answers(question.about)) : questions;
  const verdict = open.length > 0 ? 'waits' : standing.length > 0 ? 'matched' : 'no match';
  return { filings: standing, questions: open, entry: { step: 'match', verdict, rule: standing[0]?.rule ?? null, evidence } };
}

function matchAccounts(
  resolved: readonly Resolved[],
  rulebook: CompiledRulebook,
  directory: Directory,
  filings: Filing[],
  questions: Question[],
  evidence: Evidence[],
  at: number,
): void {
  const isSettled = (account: AccountRecord): boolean => filings.some((filing) => filing.kind === 'account' && filing.id === account.id);
  const fileUnder = (account: AccountRecord, by: Extract<Evidence, { fact: 'account' }>['by'], via: string): void => {
    if (isSettled(account)) return;
    addFiling(filings, { kind: 'account', id: account.id, rule: by === 'person' ? RULES.accountByPerson : RULES.accountByDomain });
    evidence.push({ fact: 'account', id: account.id, name: account.name, by, via });
  };

  const byDomain: Resolved[] = [];
  for (const item of resolved) {
    let hasAccount = false;
    for (const person of item.people) {
      const account = directory.accountOf(person, item, at);
      if (!account) continue;
      hasAccount = true;
      fileUnder(account, 'person', item.address);
    }
    if (!hasAccount) byDomain.push(item);
  }
  if (rulebook.source.match.account === 'person') return;

  const asked: string[] = [];
  for (const item of byDomain) {
    if (rulebook.isPublicProvider(item.domain)) {
      evidence.push({ fact: 'provider', domain: item.domain });
      continue;
    }
    const owners = directory.accountsOfDomain(item.domain);
    if (owners.length === 1 && owners[0]) fileUnder(owners[0], 'domain', item.domain);
    const theirs = owners.length === 0 ? directory.accountWithoutDomain(item.domain) : undefined;
    if (theirs) fileUnder(theirs.account, theirs.by, item.domain);
    if (owners.length < 2 || owners.some(isSettled) || asked.includes(item.domain)) continue;
    asked.push(item.domain);
    const candidates = owners.map(({ id, name }) => ({ id, name }));
    evidence.push({ fact: 'shared domain', domain: item.domain, candidates });
    questions.push({ about: 'account', kind: 'account', candidates, domain: item.domain });
  }
}

/** Everyone on record in the email: on their deals its own may rest. */
function peopleIn(resolved: readonly Resolved[], newcomers: Newcomers): readonly PersonRecord[] {
  let only: readonly PersonRecord[] = newcomers.people;
  let all: PersonRecord[] | null = null;
  // Most emails have one person on record: the list is then that of the directory.
  for (const { people } of resolved) {
    if (people.length === 0) continue;
    if (only.length === 0) only = people;
    else if (all === null) all = [...only, ...people];
    else all.push(...people);
  }
  return all ?? only;
}
