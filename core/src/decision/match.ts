import type { AccountRecord, DealRecord, Directory, PersonRecord } from '../records/directory';
import { mayConcern, wasOpen } from '../records/dealTimes';
import type { CompiledRulebook } from '../rulebook/compile';
import type { Action } from '../rulebook/rule';
import type { RuleContext } from '../rulebook/ruleContext';
import { RULES } from '../rulebook/schema';
import { codeWords, dealsWithCodes } from './dealCode';
import { clearWinner, couldReach, namesOthers, scoreDeals } from './dealScore';
import { matterOf } from './memory';
import type { GestureVerdict } from './gestures';
import type { PinVerdict } from './pins';
import { ruleEvidence } from './ruleEvidence';
import type { Evidence, Filing, Question, StopEntry } from './types';
import { NO_DEALS, dealsInCommon, dealsOfAccounts, isOfManyAccounts, openDeals, openedBy } from './dealsOf';

const MOST_SCORES = 8;
const DAY = 86_400_000;
/** A conversation that is taken up after so many days under another subject may be about something else. */
const RESTED_DAYS = 60;

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
  entry: StopEntry;
}

/** The people whom an email creates, as far as its deal may rest on them. */
export interface Newcomers {
  accounts: readonly number[];
  /** Those whom it had created when it was decided before. */
  people: readonly PersonRecord[];
}

/** The stop that files an email under the people it is with, their accounts, and a deal. */
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
  const spoken = rulebook.stops.match.all(context);
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

  const standing = hasPins ? filings.filter((filing) => !pins.isOff(filing.kind, filing.id)) : filings;
  const open = hasPins ? questions.filter((question) => !pins.answers(question.about)) : questions;
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

  const asked = new Set<string>();
  for (const item of byDomain) {
    if (rulebook.isPublicProvider(item.domain)) {
      evidence.push({ fact: 'provider', domain: item.domain });
      continue;
    }
    const owners = directory.accountsOfDomain(item.domain);
    if (owners.length === 1 && owners[0]) fileUnder(owners[0], 'domain', item.domain);
    const theirs = owners.length === 0 ? directory.accountWithoutDomain(item.domain) : undefined;
    if (theirs) fileUnder(theirs.account, theirs.by, item.domain);
    if (owners.length < 2 || owners.some(isSettled) || asked.has(item.domain)) continue;
    asked.add(item.domain);
    const candidates = owners.map(({ id, name }) => ({ id, name }));
    evidence.push({ fact: 'shared domain', domain: item.domain, candidates });
    questions.push({ about: 'account', kind: 'account', candidates, domain: item.domain });
  }
}

/** Everybody on record in the email: on their deals its own may rest. */
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

function matchDeal(
  { facts, memory }: RuleContext,
  people: readonly PersonRecord[],
  rulebook: CompiledRulebook,
  directory: Directory,
  filings: Filing[],
  questions: Question[],
  evidence: Evidence[],
  accountsOfNew: readonly number[],
): void {
  const fileUnder = (deal: DealRecord, by: Extract<Evidence, { fact: 'deal' }>['by'], rule: string, via: string): void => {
    addFiling(filings, { kind: 'deal', id: deal.id, rule });
    evidence.push({ fact: 'deal', id: deal.id, name: deal.name, by, via });
  };
  const remembered = memory.dealId === null ? undefined : directory.deal(memory.dealId);
  if (remembered) {
    const turned = newMatter(remembered, facts, memory, people, directory);
    if (!turned) return fileUnder(remembered, 'conversation', RULES.dealByConversation, '');
    evidence.push({ fact: 'new matter', id: remembered.id, name: remembered.name, subject: memory.dealSubject ?? '', ...turned });
  }
  const ask = (candidates: readonly { id: number; name: string }[]): void => {
    questions.push({ about: 'deal', kind: 'deal', candidates: candidates.map(({ id, name }) => ({ id, name })), domain: null });
  };
  const inSubject = dealsWithCodes(codeWords(facts.subject), directory);
  if (inSubject.length > 1) {
    evidence.push({ fact: 'several codes', candidates: inSubject.map(({ deal: { id, name } }) => ({ id, name })) });
    return ask(inSubject.map((deal) => deal.deal));
  }
  // Several codes in a text are a report on many deals, and settle nothing.
  const inText = inSubject.length > 0 ? [] : dealsWithCodes(facts.codes, directory);
  const [coded] = inSubject.length > 0 || inText.length > 1 ? inSubject : inText;
  if (coded) return fileUnder(coded.deal, 'code', RULES.dealByCode, coded.code);

  const { deal: how, threshold, margin, leadDays } = rulebook.source.match;
  const opened = openDeals(facts.at, people, directory);
  const all = opened.filter((deal) => mayConcern(deal, facts.at, leadDays));
  const young = opened.length - all.length;
  if (young > 0 && all.length === 0)
    evidence.push({ fact: 'deals too young', candidates: opened.map(({ id, name }) => ({ id, name })), days: leadDays });
  const open = all.length < 2 ? all : dealsInCommon(openedBy(all, facts.at), people, directory);
  const [only] = open;
  if (only && open.length === 1) return fileUnder(only, 'only open', RULES.onlyOpenDeal, all.length > 1 ? 'in common' : '');
  const ofAccounts = open.length > 0 ? NO_DEALS : dealsOfAccounts(filings, accountsOfNew, facts.at, leadDays, directory);
  const [alone] = ofAccounts;
  // A deal that names no one is everybody's at its account.
  if (alone && ofAccounts.length === 1 && alone.people.length === 0) return fileUnder(alone, 'account', RULES.onlyOpenDeal, '');
  if (how === 'scored') {
    const candidates = open.length > 0 ? open : ofAccounts;
    if (candidates.length === 0) return;
    if (open.length === 0 && !candidates.some((deal) => couldReach(facts, deal, threshold))) return;
    const present = new Set(people.map((person) => `${person.kind}:${person.id}`));
    const scores = scoreDeals(facts, candidates, present, (id) => directory.account(id)?.name);
    const best = clearWinner(scores, threshold, margin);
    const winner = best && candidates.find((candidate) => candidate.id === best.id);
    // No one asks about deals that only the account leads to: that no one of them takes part is no riddle.
    if (open.length === 0 && !winner) return;
    evidence.push({ fact: 'deal scores', scores: scores.slice(0, MOST_SCORES), threshold, margin });
    if (winner) return fileUnder(winner, 'score', RULES.dealByScore, '');
    return isOfManyAccounts(open, people, directory) ? undefined : ask(scores);
  }
  if (open.length < 2) return;
  evidence.push({ fact: 'open deals', candidates: open.map(({ id, name }) => ({ id, name })) });
  if (!isOfManyAccounts(open, people, directory)) ask(open);
}

type Turned = Pick<Extract<Evidence, { fact: 'new matter' }>, 'because' | 'days'>;

/**
 * Whether a conversation has turned to another matter than that of its deal, begun by answering an old email: the subject is another one, and
 * the deal has been closed, or the conversation had rested for long, or the subject names other deals.
 */
function newMatter(
  deal: DealRecord,
  { at, subject }: RuleContext['facts'],
  { dealSubject, otherMatters, lastAt }: RuleContext['memory'],
  people: readonly PersonRecord[],
  directory: Directory,
): Turned | null {
  if (dealSubject === null) return null;
  const matter = matterOf(subject);
  if (matter === dealSubject) return null;
  if (otherMatters.has(matter)) return { because: 'turned before' };
  if (!wasOpen(deal, at) && deal.closedAt !== null) return { because: 'closed' };
  const days = lastAt === null ? 0 : Math.floor((at - lastAt) / DAY);
  if (days >= RESTED_DAYS) return { because: 'rested', days };
  const coded = dealsWithCodes(codeWords(subject), directory);
  if (coded.length > 0) return coded.some((item) => item.deal === deal) ? null : { because: 'names others' };
  const others = openDeals(at, people, directory).filter((openDeal) => openDeal !== deal);
  return others.length > 0 && namesOthers(subject, deal, others) ? { because: 'names others' } : null;
}
