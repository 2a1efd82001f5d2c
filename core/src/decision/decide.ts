import type { Directory, PersonRecord } from '../records/directory';
import type { Participant } from '../emails/emailFacts';
import { NOT_READ } from '../emails/readEmail';
import { ERASED_DOMAIN } from '../emails/forget';
import type { CompiledRulebook } from '../rulebook/compile';
import type { Action } from '../rulebook/rule';
import { RuleContext } from '../rulebook/ruleContext';
import { RULES } from '../rulebook/schema';
import type { TemporaryIds } from './newRecords';
import { create } from './create';
import { fromForm } from './formAuthor';
import type { GestureVerdict } from './gestures';
import { weighGestures } from './gestures';
import type { KeepOutVerdict } from './keepOut';
import { keepOut } from './keepOut';
import type { Resolved } from './match';
import { addFiling } from './addFiling';
import { match } from './match';
import { asWritten, ownListOf } from './ownList';
import type { WordVerdict } from './sharingChoices';
import { weighWords, wordEvidence } from './sharingChoices';
import type { PinVerdict } from './pins';
import { weighPins } from './pins';
import { ruleEvidence } from './ruleEvidence';
import { takeIn } from './takeIn';
import type { ConversationMemory, DecisionFacts, Direction, Outcome, SharingChoice } from '../facts/types';
import type { Creation, Decision, Docket, Evidence, Filing, Question, StepEntry } from './types';

/** From how many on a set is worth its making. */
const FEW = 8;

const isCounted = (role: Participant['role']): boolean => role === 'from' || role === 'to' || role === 'cc' || role === 'bcc';

/** The external participants of an email, each address once, sender first. Sender and Reply-To fields do not count. */
export function externalParticipants(participants: readonly Participant[], rulebook: CompiledRulebook): Participant[] {
  const found: Participant[] = [];
  // Most emails have a few participants: looking through a short list is cheaper than a set.
  const seen = participants.length > FEW ? new Set<string>() : null;
  for (const participant of participants) {
    if (!isCounted(participant.role) || participant.domain === ERASED_DOMAIN || rulebook.isOurs(participant.address, participant.domain))
      continue;
    const key = rulebook.personKey(participant.address);
    const again = seen
      ? seen.has(key)
      : found.some((known) => known.address === participant.address || rulebook.personKey(known.address) === key);
    if (again) continue;
    seen?.add(key);
    found.push(participant);
  }
  return found;
}

/** *sent*: from us with at least one external; *received*: from an external; *internal*: no one external. */
export function directionOf(
  participants: readonly Participant[],
  externals: readonly Participant[],
  rulebook: CompiledRulebook,
): Direction {
  if (externals.length === 0) return 'internal';
  const sender = participants.find((participant) => participant.role === 'from');
  return sender && rulebook.isOurs(sender.address, sender.domain) ? 'sent' : 'received';
}

/**
 * Decides one email: the five steps in order.
 *
 * A pure function of its arguments but for the directory, which learns the records that are created, so that the emails
 * decided after it know them. The same inputs give the same decision.
 *
 * @param memory what earlier decisions in the same conversation say
 * @param ids source of ids for records to be created
 */
export function decide(
  asRead: DecisionFacts,
  rulebook: CompiledRulebook,
  directory: Directory,
  memory: ConversationMemory,
  ids: TemporaryIds,
): Decision {
  const ownList = ownListOf(asRead, rulebook, memory);
  const written = ownList === null ? asRead : asWritten(asRead);
  const facts = fromForm(written, rulebook);
  const externals = externalParticipants(facts.participants, rulebook);
  const direction = directionOf(facts.participants, externals, rulebook);
  const addresses = externals.map((external) => rulebook.personKey(external.address));
  const about = { direction, externals: addresses, externalDomains: domainsOf(externals) };

  const pins = weighPins(facts);
  const words = weighWords(facts.sharingChoices);
  if (pins.sealed || words.seal) return nothingFiled(about, 'sealed', [], OWNER_ONLY, [sealedBy(pins, words)]);
  if (facts.classProof?.header === NOT_READ) return nothingFiled(about, 'unfiled', [], OWNER_ONLY, [UNREAD]);
  const gestures = weighGestures(facts);
  const asked = new RuleContext(facts, externals, direction, memory, directory, rulebook.personKey);
  const first = letThroughByHand(keepOut(facts, asked, rulebook, cameBy(ownList, facts === written ? null : written)), gestures, pins);
  if (first.keptOut) return nothingFiled(about, 'kept out', [], OWNER_ONLY, [first.entry]);

  const allRemain = first.remaining.length === externals.length;
  const context = allRemain ? asked : new RuleContext(facts, first.remaining, direction, memory, directory, rulebook.personKey);
  const resolved = first.remaining.map((participant): Resolved => {
    const { before, ofThis } = context.peopleByOrigin(participant);
    return { address: rulebook.personKey(participant.address), domain: participant.domain, name: participant.name, people: before, ofThis };
  });
  const known: string[] = [];
  for (const item of resolved) if (item.people.length > 0 || directory.own.at(item.address).length > 0) known.push(item.address);
  const waitsAtAddress = facts.atFilingAddressOnly && !gestures.takesIn && pins.filings.length === 0;
  const second = takenInByHand(takeIn(rulebook, context, known), gestures, pins);
  if (second.verdict !== 'taken in' || waitsAtAddress) {
    const questions = gestures.questions.filter((question) => !pins.answers(question.about));
    const shared = share([], context, rulebook, words);
    const waits: Docket =
      questions.length > 0 ? [{ step: 'match', verdict: 'waits', rule: RULES.filingAddress, evidence: gestures.evidence }] : [];
    return nothingFiled(about, outcomeOf([], questions.length), questions, shared.seen, [first.entry, second, ...waits, shared.entry]);
  }

  // Who takes an email off everything asks for no one to be created from it.
  const unknown = pins.offEverything ? [] : resolved.filter((item) => item.people.length === 0);
  const fourth = create(context, unknown, rulebook, directory, ids);
  const matchable = unknown.length === 0 && !pins.offEverything ? resolved : matchableOf(resolved, fourth.creations);
  const accountsOfNew = fourth.creations.flatMap((creation) => (creation.accountId === null ? [] : [creation.accountId]));
  const third = match(matchable, rulebook, directory, context, gestures, pins, {
    accounts: accountsOfNew,
    people: fourth.creations.length === 0 ? NOBODY : createdBefore(unknown, fourth.creations),
  });
  const { filings } = third;
  const fileCreated = (filing: Filing): void => {
    if (!pins.isOff(filing.kind, filing.id)) addFiling(filings, filing);
  };
  for (const creation of fourth.creations) {
    fileCreated({ kind: creation.kind, id: creation.id, rule: creation.rule });
    if (creation.accountId !== null) fileCreated({ kind: 'account', id: creation.accountId, rule: RULES.accountByDomain });
  }
  const questions = third.questions;
  for (const question of fourth.questions) if (!pins.answers(question.about)) questions.push(question);
  const shared = share(filings, context, rulebook, words);
  const docket: Docket = [first.entry, second, third.entry, fourth.entry, shared.entry];
  return decisionOf(about, outcomeOf(filings, questions.length), { filings, creations: fourth.creations, questions }, shared.seen, docket);
}

/** How an email came that counts as its author wrote it: through a list of ours, or a form. */
function cameBy(ownList: string | null, form: DecisionFacts | null): readonly Evidence[] {
  if (ownList === null && form === null) return NO_EVIDENCE;
  const address = form?.participants.find(({ role }) => role === 'from')?.address ?? '';
  return [
    ...(ownList === null ? [] : [{ fact: 'own list' as const, list: ownList }]),
    ...(form === null ? [] : [{ fact: 'form' as const, address }]),
  ];
}

const NO_EVIDENCE: readonly Evidence[] = [];
const NOBODY: readonly PersonRecord[] = [];
/** Nothing is known of an email that was not read: it is left to its owner. */
const UNREAD: StepEntry = { step: 'takeIn', verdict: 'left to its owner', rule: null, evidence: [{ fact: 'not read' }] };

/** The people whom this email created when it was decided before: they may be on deals by now. */
function createdBefore(unknown: readonly Resolved[], creations: readonly Creation[]): readonly PersonRecord[] {
  return unknown.flatMap((resolved) =>
    resolved.ofThis.filter(({ kind, id }) => creations.some((made) => made.kind === kind && made.id === id)),
  );
}

type About = Pick<Decision, 'direction' | 'externals' | 'externalDomains'>;

const nothingFiled = (about: About, outcome: Outcome, questions: Question[], seen: Seen, docket: Docket): Decision =>
  decisionOf(about, outcome, { filings: [], creations: [], questions }, seen, docket);

/** Written out: copying what is spread costs more here than all that it saves. */
function decisionOf(
  { direction, externals, externalDomains }: About,
  outcome: Outcome,
  { filings, creations, questions }: Pick<Decision, 'filings' | 'creations' | 'questions'>,
  { visibility, sharedTeams, existenceOnly }: Seen,
  docket: Docket,
): Decision {
  return { direction, externals, externalDomains, outcome, filings, creations, questions, visibility, sharedTeams, existenceOnly, docket };
}

function domainsOf(externals: readonly Participant[]): string[] {
  const found: string[] = [];
  for (const { domain } of externals) if (!found.includes(domain)) found.push(domain);
  return found;
}

/**
 * Whom to match: who is not created now together with an account; a lead's company may be on record by its domain. Who stays uncreated but was
 * created by this email under an earlier rulebook is on record all the same.
 */
function matchableOf(resolved: readonly Resolved[], creations: readonly Creation[]): readonly Resolved[] {
  if (creations.length === 0 && resolved.every((item) => item.people.length > 0 || item.ofThis.length === 0)) return resolved;
  const accounts = new Map(creations.map((creation) => [creation.address, creation.accountId]));
  return resolved
    .filter((item) => (accounts.get(item.address) ?? null) === null)
    .map((item) => {
      if (accounts.has(item.address)) return { ...item, isNew: true };
      return item.people.length > 0 ? item : { ...item, people: item.ofThis };
    });
}

function outcomeOf(filings: readonly Filing[], questions: number): Outcome {
  if (questions > 0) return 'waiting';
  return filings.length > 0 ? 'filed' : 'unfiled';
}

function sealedBy(pins: PinVerdict, { seal }: WordVerdict): StepEntry {
  const evidence = [...pins.evidence.filter((item) => item.fact === 'pin' && item.does === 'seal'), ...(seal ? [wordEvidence(seal)] : [])];
  return { step: 'share', verdict: 'owner', rule: RULES.seal, evidence };
}

/** A person's word goes before the rules of the first step; who was ignored there stays so. */
function letThroughByHand(verdict: KeepOutVerdict, gestures: GestureVerdict, pins: PinVerdict): KeepOutVerdict {
  const filing = pins.takesIn ?? gestures.filings[0];
  if (!verdict.keptOut || !filing) return verdict;
  const evidence = [...verdict.entry.evidence, ...pins.evidence, ...gestures.evidence];
  return { keptOut: false, remaining: [], entry: { step: 'keepOut', verdict: 'passed', rule: filing.rule, evidence } };
}

function takenInByHand(entry: StepEntry, gestures: GestureVerdict, pins: PinVerdict): StepEntry {
  const filing = pins.takesIn;
  if (filing) return { step: 'takeIn', verdict: 'taken in', rule: filing.rule, evidence: pins.evidence };
  if (pins.offEverything) return { step: 'takeIn', verdict: 'left to its owner', rule: RULES.pin, evidence: pins.evidence };
  if (!gestures.takesIn) return entry;
  return { step: 'takeIn', verdict: 'taken in', rule: gestures.rule, evidence: gestures.evidence };
}

type Level = Extract<Evidence, { fact: 'level' }>;
type Seen = Pick<Decision, 'visibility' | 'sharedTeams' | 'existenceOnly'>;

const OWNER_ONLY: Seen = { visibility: 'owner', sharedTeams: [], existenceOnly: false };

/**
 * The step that says who sees the email. An owner's word about it goes before all. Under no record, or from a mailbox whose owner keeps it
 * private, those who use the mailbox; else the first rule that speaks, else the step's default.
 */
function share(
  filings: readonly Filing[],
  context: RuleContext,
  rulebook: CompiledRulebook,
  words: WordVerdict,
): { entry: StepEntry; seen: Seen } {
  const said = (seen: Seen, because: Level['because'], rule: string | null, more: Evidence[] = []): { entry: StepEntry; seen: Seen } => {
    const level: Level = {
      fact: 'level',
      level: seen.visibility,
      because,
      ...(seen.sharedTeams.length > 0 ? { teams: seen.sharedTeams } : {}),
      ...(seen.existenceOnly ? { existenceOnly: true } : {}),
    };
    return { entry: { step: 'share', verdict: seen.visibility, rule, evidence: [...more, level] }, seen };
  };
  const word = words.share;
  if (word) return said(seenByWord(word), 'word', RULES.sharingChoice, [wordEvidence(word)]);
  if (filings.length === 0) return said(OWNER_ONLY, 'not filed', null);
  const spoken = rulebook.steps.share.first(context);
  const { level, existenceOnly } = rulebook.source.share;
  const seen = spoken
    ? seenBy(spoken.rule.then)
    : { visibility: level, sharedTeams: [], existenceOnly: existenceOnly && level !== 'owner' };
  const evidence = spoken ? [ruleEvidence(spoken)] : [];
  if (seen.visibility !== 'owner' && !context.facts.sharedByRules) return said(OWNER_ONLY, 'mailbox', RULES.mailboxOwner, evidence);
  return spoken ? said(seen, 'rule', spoken.rule.id, evidence) : said(seen, 'policy', RULES.level);
}

function seenByWord({ level, teams, existenceOnly }: SharingChoice): Seen {
  return { visibility: level, sharedTeams: level === 'teams' ? [...teams].sort() : [], existenceOnly: existenceOnly && level !== 'owner' };
}

function seenBy(action: Action<'share'>): Seen {
  if (action.do === 'owner') return OWNER_ONLY;
  return { visibility: action.do, sharedTeams: action.do === 'teams' ? [...action.teams].sort() : [], existenceOnly: action.existenceOnly };
}
