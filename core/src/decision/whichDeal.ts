import type { DealRecord, Directory, PersonRecord } from '../records/directory';
import { mayConcern, wasOpen } from '../records/dealTimes';
import type { CompiledRulebook } from '../rulebook/compile';
import type { RuleContext } from '../rulebook/ruleContext';
import type { ConversationDeal, DecisionFacts } from '../facts/types';
import { RULES } from '../rulebook/schema';
import type { CodedDeal } from './dealCode';
import { candidatesByNumber, candidatesInText, codeWords, currentSubject, dealsWithCodes, nameOfFile } from './dealCode';
import type { NamedDeal } from './dealName';
import { dealsNamed } from './dealName';
import { clearWinner, couldReach, namesOthers, scoreDeals } from './dealScore';
import { inheritedDeal, matterOf, partiesOf } from './memory';
import { dealsInPairs } from './wordPairs';
import type { Evidence, Filing, Question } from './types';
import { NO_DEALS, accountsOfPeople, dealsInCommon, dealsOfAccounts, dealsThatFit, isOneCustomers, openDeals, openedBy } from './dealsOf';
import { addFiling } from './addFiling';

const MOST_SCORES = 8;
const DAY = 86_400_000;
/** A conversation that is taken up after so many days under another subject may be about something else. */
const RESTED_DAYS = 60;

/** Finds the deal of an email, or asks for it. What points to a deal has to fit the people of the email; the evidence goes from the certain to the likely. */
export function matchDeal(
  { facts, memory, direction, externals }: RuleContext,
  people: readonly PersonRecord[],
  rulebook: CompiledRulebook,
  directory: Directory,
  filings: Filing[],
  questions: Question[],
  evidence: Evidence[],
  accountsOfNew: readonly number[],
): void {
  const { at } = facts;
  const fileUnder = (deal: DealRecord, by: DealBy, rule: string, via: string): void => {
    addFiling(filings, { kind: 'deal', id: deal.id, rule });
    evidence.push({ fact: 'deal', id: deal.id, name: deal.name, by, via, ...datesOf(deal, at) });
  };
  const ask = (candidates: readonly { id: number; name: string }[]): void => {
    questions.push({ about: 'deal', kind: 'deal', candidates: candidates.map(({ id, name }) => ({ id, name })), domain: null });
  };
  const { deal: how, threshold, margin, leadDays } = rulebook.source.match;
  const subject = currentSubject(facts.subject);
  // Deals of these people and of their accounts, whenever they were open: what points to a deal has to fit these.
  let fitting: readonly DealRecord[] | null = null;
  const theirs = (): readonly DealRecord[] => (fitting ??= dealsThatFit(people, filings, accountsOfNew, directory));
  const said: Said = {
    subject,
    theirs,
    codes: dealsWithCodes(codeWords(subject), directory),
    inText: () => textNames(facts, theirs()),
    namesInText: () =>
      dealsInPairs(
        facts.wordPairs,
        theirs().filter((deal) => mayConcern(deal, at, leadDays)),
        (deal) => companyOf(deal, directory),
      ),
    names: () =>
      dealsNamed(
        subject,
        theirs().filter((deal) => mayConcern(deal, at, leadDays)),
        (deal) => companyOf(deal, directory),
      ),
  };

  const inherited =
    memory.deals.length === 0
      ? null
      : inheritedDeal(
          memory,
          partiesOf(
            externals.map(({ address }) => address),
            filings,
          ),
          subject,
          (id) => directory.deal(id) !== undefined,
        );
  const remembered = inherited ? directory.deal(inherited.dealId) : undefined;
  let turnedByText = false;
  if (remembered && inherited) {
    const turned = newMatter(remembered, inherited, facts, memory, people, directory, said);
    if (!turned) return fileUnder(remembered, 'conversation', RULES.dealByConversation, '');
    turnedByText = turned.because === 'text names another';
    evidence.push({ fact: 'new matter', id: remembered.id, name: remembered.name, subject: inherited.subject ?? '', ...turned });
  } else {
    const away = memory.deals.map(({ dealId }) => directory.deal(dealId)).find((deal) => deal !== undefined);
    if (away) evidence.push({ fact: 'new matter', id: away.id, name: away.name, subject: '', because: 'others' });
  }

  // What the sender wrote now outweighs a subject that the conversation has had all along.
  if (turnedByText) {
    const [coded] = candidatesInText(piecesOf(facts), theirs());
    if (coded) return fileUnder(coded.deal, 'code', RULES.dealByCode, coded.code);
    const [named] = said.namesInText();
    if (named) return fileUnder(named.deal, 'text', RULES.dealByName, named.words.join(' '));
  }
  const inSubject = said.codes.length < 2 ? said.codes : fittingOf(said.codes, theirs());
  if (inSubject.length > 1) {
    evidence.push({ fact: 'several codes', candidates: inSubject.map(({ deal: { id, name } }) => ({ id, name })) });
    return ask(inSubject.map((deal) => deal.deal));
  }
  // Several codes in a text are a report on many deals, and settle nothing.
  const inText = inSubject.length > 0 ? NO_CODES : said.inText();
  const [coded] = inSubject.length > 0 ? inSubject : inText.length === 1 ? inText : NO_CODES;
  if (coded) return fileUnder(coded.deal, 'code', RULES.dealByCode, coded.code);

  const named = openAmong(said.names(), at);
  const [spelled] = named;
  if (spelled && named.length === 1) return fileUnder(spelled.deal, 'name', RULES.dealByName, spelled.words.join(' '));

  const opened = openDeals(at, people, directory);
  const all = opened.filter((deal) => mayConcern(deal, at, leadDays));
  const young = opened.length - all.length;
  if (young > 0 && all.length === 0)
    evidence.push({ fact: 'deals too young', candidates: opened.map(({ id, name }) => ({ id, name })), days: leadDays });
  const open = all.length < 2 ? all : dealsInCommon(openedBy(all, at), people, directory);
  // A mailing to several customers is about none of their deals.
  const accounts = accountsOfPeople(filings, accountsOfNew);
  if (accounts.length > 1 && !isOneCustomers(open, accounts, people, externals, direction, directory, rulebook)) {
    if (open.length > 0) evidence.push({ fact: 'several customers', accounts: accounts.length });
    return;
  }
  if (open.length > 1) {
    const [named, ...others] = said.namesInText().filter(({ deal }) => open.includes(deal));
    if (named && others.length === 0) return fileUnder(named.deal, 'text', RULES.dealByName, named.words.join(' '));
  }
  const [only] = open;
  if (only && open.length === 1) return fileUnder(only, 'only open', RULES.onlyOpenDeal, all.length > 1 ? 'in common' : '');
  const ofAccounts = open.length > 0 ? NO_DEALS : dealsOfAccounts(filings, accountsOfNew, at, leadDays, directory);
  const [alone] = ofAccounts;
  // A deal that names no one is everybody's at its account.
  if (alone && ofAccounts.length === 1 && alone.people.length === 0) return fileUnder(alone, 'account', RULES.onlyOpenDeal, '');
  if (how === 'scored') {
    const candidates = open.length > 0 ? open : ofAccounts;
    if (candidates.length === 0) return;
    if (open.length === 0 && !candidates.some((deal) => couldReach(facts, deal, threshold))) return;
    const present = new Set(people.map((person) => `${person.kind}:${person.id}`));
    const scores = scoreDeals({ ...facts, subject }, candidates, present, (id) => directory.account(id)?.name);
    const best = clearWinner(scores, threshold, margin);
    const winner = best && candidates.find((candidate) => candidate.id === best.id);
    // No one asks about deals that only the account leads to: that no one of them takes part is no riddle.
    if (open.length === 0 && !winner) return;
    evidence.push({ fact: 'deal scores', scores: scores.slice(0, MOST_SCORES), threshold, margin });
    if (winner) return fileUnder(winner, 'score', RULES.dealByScore, '');
    return ask(scores);
  }
  if (open.length < 2) return;
  evidence.push({ fact: 'open deals', candidates: open.map(({ id, name }) => ({ id, name })) });
  ask(open);
}

type DealBy = Extract<Evidence, { fact: 'deal' }>['by'];
const NO_CODES: readonly CodedDeal[] = [];

/** What an email says of deals. */
interface Said {
  /** Its subject, without what that says it was before. */
  subject: string;
  /** Deals whose codes stand in the subject. */
  codes: readonly CodedDeal[];
  /** Deals of these people that the sender's own words, or the names of files, tell by code or number. */
  inText: () => readonly CodedDeal[];
  /** Deals of these people whose names the sender's own words spell out. */
  namesInText: () => readonly NamedDeal[];
  /** Deals of these people whose names the subject spells out. */
  names: () => readonly NamedDeal[];
  /** Deals of these people and of their accounts. */
  theirs: () => readonly DealRecord[];
}

const companyOf = (deal: DealRecord, directory: Directory): string =>
  deal.accountId === null ? '' : (directory.account(deal.accountId)?.name ?? '');

/** Where a deal was closed before the email, or opened after it: its words have to be true of the dates. */
function datesOf(deal: DealRecord, at: number): { closedAt?: number; openedAt?: number } {
  if (!wasOpen(deal, at) && deal.closedAt !== null) return { closedAt: deal.closedAt };
  return deal.openedAt !== null && deal.openedAt > at ? { openedAt: deal.openedAt } : NO_DATES;
}

const NO_DATES = {};

/** By code or number, in the sender's own words, in names of files, and a number in the subject. */
function textNames(facts: DecisionFacts, theirs: readonly DealRecord[]): readonly CodedDeal[] {
  const pieces = piecesOf(facts);
  const byCode = candidatesInText(pieces, theirs);
  return byCode.length > 0 ? byCode : candidatesByNumber([currentSubject(facts.subject), ...pieces], theirs);
}

/** Where codes may stand beside the subject: the sender's own words, and the names of files. */
const piecesOf = ({ codes, attachments }: Pick<DecisionFacts, 'codes' | 'attachments'>): readonly string[] =>
  attachments.length === 0 ? codes : [...codes, ...attachments.map(nameOfFile)];

/** Of several, those that fit the people; all where none does. */
function fittingOf(codes: readonly CodedDeal[], theirs: readonly DealRecord[]): readonly CodedDeal[] {
  const those = codes.filter(({ deal }) => theirs.includes(deal));
  return those.length > 0 ? those : codes;
}

/** Of several deals that a name tells, those that were open at that time; all where none was. */
function openAmong(named: readonly NamedDeal[], at: number): readonly NamedDeal[] {
  if (named.length < 2) return named;
  const open = named.filter(({ deal }) => wasOpen(deal, at) && (deal.openedAt === null || deal.openedAt <= at));
  return open.length > 0 ? open : named;
}

type Turned = Pick<Extract<Evidence, { fact: 'new matter' }>, 'because' | 'days'>;

/**
 * Whether a conversation has turned to another matter than that of its deal. The sender's words name another deal of these people, and not this
 * one; or the subject is another one, begun by answering an old email, and the deal has been closed, or the conversation had rested for long, or
 * the subject names other deals.
 */
function newMatter(
  deal: DealRecord,
  { subject: dealSubject }: ConversationDeal,
  { at, codes, attachments, wordPairs }: RuleContext['facts'],
  { otherMatters, lastAt }: RuleContext['memory'],
  people: readonly PersonRecord[],
  directory: Directory,
  said: Said,
): Turned | null {
  const matter = dealSubject === null ? null : matterOf(said.subject);
  const isSame = matter === dealSubject;
  const inSubject = said.codes;
  const mayName = codes.length > 0 || attachments.length > 0 || wordPairs !== '';
  if (mayName && !(isSame ? NO_CODES : inSubject).some((item) => item.deal === deal)) {
    const written = new Set(
      [...candidatesInText(piecesOf({ codes, attachments }), said.theirs()), ...said.namesInText()].map((item) => item.deal),
    );
    if (written.size === 1 && !written.has(deal)) return { because: 'text names another' };
  }
  if (matter === null || isSame) return null;
  if (inSubject.length > 0) return inSubject.some((item) => item.deal === deal) ? null : { because: 'names others' };
  const named = said.names();
  if (named.length > 0) return named.some((item) => item.deal === deal) ? null : { because: 'names others' };
  if (otherMatters.has(matter)) return { because: 'turned before' };
  if (!wasOpen(deal, at) && deal.closedAt !== null) return { because: 'closed' };
  const days = lastAt === null ? 0 : Math.floor((at - lastAt) / DAY);
  if (days >= RESTED_DAYS) return { because: 'rested', days };
  const others = openDeals(at, people, directory).filter((openDeal) => openDeal !== deal);
  return others.length > 0 && namesOthers(said.subject, deal, others) ? { because: 'names others' } : null;
}
