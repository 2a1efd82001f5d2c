import type { AccountRecord, DealRecord, Directory, PersonRecord } from '../directory/directory';
import type { CompiledRulebook } from '../rulebook/compile';
import type { Action } from '../rulebook/rule';
import type { RuleContext } from '../rulebook/ruleContext';
import { RULES } from '../rulebook/schema';
import { codeWords, dealsWithCodes } from './dealCode';
import { clearWinner, scoreDeals } from './dealScore';
import type { GestureVerdict } from './gestures';
import type { PinVerdict } from './pins';
import { ruleEvidence } from './ruleEvidence';
import type { Evidence, Filing, Question, StopEntry } from './types';

const MOST_SCORES = 8;

/** An external participant and who that is. */
export interface Resolved {
  address: string;
  domain: string;
  name: string;
  people: readonly PersonRecord[];
}

export interface MatchVerdict {
  filings: Filing[];
  questions: Question[];
  entry: StopEntry;
}

/** The stop that files an email under the people it is with, their accounts, and a deal. */
export function match(
  resolved: readonly Resolved[],
  rulebook: CompiledRulebook,
  directory: Directory,
  context: RuleContext,
  gestures: GestureVerdict,
  pins: PinVerdict,
): MatchVerdict {
  // A person's word comes first, and where it names the deal no other is looked for.
  const filings: Filing[] = [...pins.filings];
  for (const one of gestures.filings) addFiling(filings, one);
  const questions: Question[] = [...gestures.questions];
  const evidence: Evidence[] = [...pins.evidence, ...gestures.evidence];
  const spoken = rulebook.stops.match.all(context);
  const hasPins = context.facts.pins.length > 0;
  for (const one of spoken) {
    const { then, id } = one.rule;
    evidence.push(ruleEvidence(one));
    if (then.do === 'fileUnder' && directory.has(then.kind, then.id)) addFiling(filings, { kind: then.kind, id: then.id, rule: id });
    if (then.do === 'hold') questions.push({ about: 'hold', kind: 'deal', candidates: [], domain: one.rule.name || null });
  }
  const says = (what: Action<'match'>['do']): boolean => spoken.length > 0 && spoken.some((one) => one.rule.then.do === what);
  const dealIsSaid = pins.dealIsSaid || filings.some((one) => one.kind === 'deal') || says('neverDeals');

  for (const one of resolved) {
    if (one.people.length === 0) evidence.push({ fact: 'unknown', address: one.address });
    for (const person of one.people) {
      addFiling(filings, { kind: person.kind, id: person.id, rule: RULES.person });
      evidence.push({ fact: 'person', address: one.address, kind: person.kind, id: person.id, name: person.name });
    }
  }
  if (rulebook.source.match.account !== 'never' && !says('neverAccounts'))
    matchAccounts(resolved, rulebook, directory, filings, questions, evidence, context.facts.at);
  if (rulebook.source.match.deal !== 'never' && !dealIsSaid)
    matchDeal(context, resolved, rulebook, directory, filings, questions, evidence);

  const standing = hasPins ? filings.filter((one) => !pins.isOff(one.kind, one.id)) : filings;
  const open = hasPins ? questions.filter((one) => !pins.answers(one.about)) : questions;
  const verdict = open.length > 0 ? 'waits' : standing.length > 0 ? 'matched' : 'no match';
  return { filings: standing, questions: open, entry: { stop: 'match', verdict, rule: standing[0]?.rule ?? null, evidence } };
}

/** Files once under a record; the first rule that put it there keeps the word. */
export function addFiling(filings: Filing[], filing: Filing): void {
  for (const known of filings) if (known.id === filing.id && known.kind === filing.kind) return;
  filings.push(filing);
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
  const isSettled = (account: AccountRecord): boolean => filings.some((one) => one.kind === 'account' && one.id === account.id);
  const fileUnder = (account: AccountRecord, by: 'person' | 'domain', via: string): void => {
    if (isSettled(account)) return;
    addFiling(filings, { kind: 'account', id: account.id, rule: by === 'person' ? RULES.accountByPerson : RULES.accountByDomain });
    evidence.push({ fact: 'account', id: account.id, name: account.name, by, via });
  };

  const byDomain: Resolved[] = [];
  for (const one of resolved) {
    let hasAccount = false;
    for (const person of one.people) {
      const account = directory.accountOf(person, one, at);
      if (!account) continue;
      hasAccount = true;
      fileUnder(account, 'person', one.address);
    }
    if (!hasAccount) byDomain.push(one);
  }
  if (rulebook.source.match.account === 'person') return;

  const asked = new Set<string>();
  for (const one of byDomain) {
    if (rulebook.isPublicProvider(one.domain)) {
      evidence.push({ fact: 'provider', domain: one.domain });
      continue;
    }
    const owners = directory.accountsOfDomain(one.domain);
    if (owners.length === 1 && owners[0]) fileUnder(owners[0], 'domain', one.domain);
    if (owners.length < 2 || owners.some(isSettled) || asked.has(one.domain)) continue;
    asked.add(one.domain);
    const candidates = owners.map(({ id, name }) => ({ id, name }));
    evidence.push({ fact: 'shared domain', domain: one.domain, candidates });
    questions.push({ about: 'account', kind: 'account', candidates, domain: one.domain });
  }
}

function matchDeal(
  { facts, memory }: RuleContext,
  resolved: readonly Resolved[],
  rulebook: CompiledRulebook,
  directory: Directory,
  filings: Filing[],
  questions: Question[],
  evidence: Evidence[],
): void {
  const fileUnder = (deal: DealRecord, by: 'conversation' | 'code' | 'only open' | 'score', rule: string, via: string): void => {
    addFiling(filings, { kind: 'deal', id: deal.id, rule });
    evidence.push({ fact: 'deal', id: deal.id, name: deal.name, by, via });
  };
  const remembered = memory.dealId === null ? undefined : directory.deal(memory.dealId);
  if (remembered) return fileUnder(remembered, 'conversation', RULES.dealByConversation, '');
  const ask = (candidates: readonly { id: number; name: string }[]): void => {
    questions.push({ about: 'deal', kind: 'deal', candidates: candidates.map(({ id, name }) => ({ id, name })), domain: null });
  };
  const inSubject = dealsWithCodes(codeWords(facts.subject), directory);
  if (inSubject.length > 1) {
    evidence.push({ fact: 'several codes', candidates: inSubject.map(({ id, name }) => ({ id, name })) });
    return ask(inSubject);
  }
  // Several codes in a text are a report on many deals, and settle nothing.
  const inText = inSubject.length > 0 ? [] : dealsWithCodes(facts.codes, directory);
  const [coded] = inSubject.length > 0 || inText.length > 1 ? inSubject : inText;
  if (coded) return fileUnder(coded, 'code', RULES.dealByCode, coded.code ?? '');

  const all = openDeals(facts.at, resolved, directory);
  const open = all.length < 2 ? all : dealsInCommon(openedBy(all, facts.at), resolved, directory);
  const [only] = open;
  if (only && open.length === 1) return fileUnder(only, 'only open', RULES.onlyOpenDeal, all.length > 1 ? 'in common' : '');
  if (open.length < 2) return;
  const { deal: how, threshold, margin } = rulebook.source.match;
  if (how === 'scored') {
    const present = new Set(resolved.flatMap((one) => one.people.map((person) => `${person.kind}:${person.id}`)));
    const scores = scoreDeals(facts, open, present);
    const best = clearWinner(scores, threshold, margin);
    evidence.push({ fact: 'deal scores', scores: scores.slice(0, MOST_SCORES), threshold, margin });
    const winner = best && open.find((one) => one.id === best.id);
    if (winner) return fileUnder(winner, 'score', RULES.dealByScore, '');
    return ask(scores);
  }
  evidence.push({ fact: 'open deals', candidates: open.map(({ id, name }) => ({ id, name })) });
  ask(open);
}

/** The deals of these people that were open when the email was sent, in order of id. */
function openDeals(at: number, resolved: readonly Resolved[], directory: Directory): DealRecord[] {
  const found: DealRecord[] = [];
  for (const one of resolved) {
    for (const person of one.people) {
      for (const deal of directory.dealsOf(person)) {
        if ((deal.open || (deal.closedAt !== null && at <= deal.closedAt)) && !found.includes(deal)) found.push(deal);
      }
    }
  }
  return found.length < 2 ? found : found.sort((one, other) => one.id - other.id);
}

/** Those that had begun when the email was sent; all of them where none is known to have. */
function openedBy(deals: readonly DealRecord[], at: number): readonly DealRecord[] {
  const begun = deals.filter((deal) => deal.openedAt === null || deal.openedAt <= at);
  return begun.length > 0 ? begun : deals;
}

/**
 * Where people of several accounts are on these deals, the deals in which each of these accounts has somebody; else all. An email to a
 * customer and to a reseller who sits in many deals is about the deal that they share.
 */
function dealsInCommon(deals: readonly DealRecord[], resolved: readonly Resolved[], directory: Directory): readonly DealRecord[] {
  const candidates = new Set(deals);
  const ofAccount = new Map<number, Set<DealRecord>>();
  for (const person of resolved.flatMap((one) => one.people)) {
    const theirs = directory.dealsOf(person).filter((deal) => candidates.has(deal));
    if (person.accountId === null || theirs.length === 0) continue;
    ofAccount.set(person.accountId, new Set([...(ofAccount.get(person.accountId) ?? []), ...theirs]));
  }
  if (ofAccount.size < 2) return deals;
  const shared = deals.filter((deal) => [...ofAccount.values()].every((theirs) => theirs.has(deal)));
  return shared.length > 0 ? shared : deals;
}
