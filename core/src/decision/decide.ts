import type { Directory } from '../directory/directory';
import type { Participant } from '../message/emailFacts';
import type { CompiledRulebook } from '../rulebook/compile';
import { RULES } from '../rulebook/schema';
import type { TemporaryIds } from './create';
import { create } from './create';
import type { GestureVerdict } from './gestures';
import { weighGestures } from './gestures';
import type { KeepOutVerdict } from './keepOut';
import { keepOut } from './keepOut';
import type { Resolved } from './match';
import { addFiling, match } from './match';
import { takeIn } from './takeIn';
import type { ConversationMemory, Decision, DecisionFacts, Direction, Docket, Evidence, Filing, Outcome, StopEntry } from './types';

const COUNTED_ROLES = new Set(['from', 'to', 'cc', 'bcc']);

/** The external participants of an email, each address once, sender first. Sender and Reply-To fields do not count. */
export function externalParticipants(participants: readonly Participant[], rulebook: CompiledRulebook): Participant[] {
  const found: Participant[] = [];
  const seen = new Set<string>();
  for (const one of participants) {
    if (!COUNTED_ROLES.has(one.role) || rulebook.isOurs(one.address, one.domain)) continue;
    const key = rulebook.personKey(one.address);
    if (seen.has(key)) continue;
    seen.add(key);
    found.push(one);
  }
  return found;
}

/** *sent*: from us with at least one external; *received*: from an external; *internal*: nobody external. */
export function directionOf(
  participants: readonly Participant[],
  externals: readonly Participant[],
  rulebook: CompiledRulebook,
): Direction {
  if (externals.length === 0) return 'internal';
  const sender = participants.find((one) => one.role === 'from');
  return sender && rulebook.isOurs(sender.address, sender.domain) ? 'sent' : 'received';
}

/**
 * Decides one email: the five stops of the line in order.
 *
 * A pure function of its arguments but for the directory, which learns the records that are created, so that the emails
 * decided after it know them. The same inputs give the same docket.
 *
 * @param memory what earlier decisions in the same conversation say
 * @param ids source of ids for records to be created
 */
export function decide(
  facts: DecisionFacts,
  rulebook: CompiledRulebook,
  directory: Directory,
  memory: ConversationMemory,
  ids: TemporaryIds,
): Decision {
  const externals = externalParticipants(facts.participants, rulebook);
  const direction = directionOf(facts.participants, externals, rulebook);
  const addresses = externals.map((one) => rulebook.personKey(one.address));
  const about = { direction, externals: addresses, externalDomains: [...new Set(externals.map((one) => one.domain))] };

  const gestures = weighGestures(facts);
  const first = letThroughByHand(keepOut(facts, externals, direction, rulebook), gestures);
  if (first.keptOut)
    return { ...about, outcome: 'kept out', filings: [], creations: [], questions: [], visibility: 'owner', docket: [first.entry] };

  const resolved = first.remaining.map((one): Resolved => {
    const key = rulebook.personKey(one.address);
    return {
      address: key,
      domain: one.domain,
      name: one.name,
      people: directory.peopleAt(key).filter((person) => person.originEmailId !== facts.id),
    };
  });
  const known = resolved.filter((one) => one.people.length > 0).map((one) => one.address);
  const waitsAtAddress = facts.atFilingAddressOnly && !gestures.takesIn;
  const second = takenInByHand(takeIn(rulebook.source.takeIn.scope, known, resolved.length, memory), gestures);
  if (second.verdict !== 'tracked' || waitsAtAddress) {
    const { questions } = gestures;
    const waits: Docket =
      questions.length > 0 ? [{ stop: 'match', verdict: 'waits', rule: RULES.filingAddress, evidence: gestures.evidence }] : [];
    return {
      ...about,
      outcome: outcomeOf([], questions.length),
      filings: [],
      creations: [],
      questions,
      visibility: 'owner',
      docket: [first.entry, second, ...waits, share([], facts, rulebook)],
    };
  }

  const unknown = resolved.filter((one) => one.people.length === 0);
  const fourth = create(facts, direction, unknown, rulebook, directory, ids);
  const created = new Set(fourth.creations.map((one) => one.address));
  // What stays uncreated but was created by this email under an earlier rulebook is on record all the same.
  const matchable = resolved
    .filter((one) => !created.has(one.address))
    .map((one) => (one.people.length > 0 ? one : { ...one, people: directory.peopleAt(one.address) }));
  const third = match(facts, matchable, rulebook, directory, memory, gestures);
  const filings = [...third.filings];
  for (const one of fourth.creations) {
    addFiling(filings, { kind: one.kind, id: one.id, rule: one.rule });
    if (one.accountId !== null) addFiling(filings, { kind: 'account', id: one.accountId, rule: RULES.accountByDomain });
  }
  const docket: Docket = [first.entry, second, third.entry, fourth.entry, share(filings, facts, rulebook)];
  return {
    ...about,
    outcome: outcomeOf(filings, third.questions.length),
    filings,
    creations: fourth.creations,
    questions: third.questions,
    visibility: levelOf(filings, facts, rulebook).level,
    docket,
  };
}

function outcomeOf(filings: readonly Filing[], questions: number): Outcome {
  if (questions > 0) return 'waiting';
  return filings.length > 0 ? 'filed' : 'loose';
}

/** A person's word goes before the rules of the first stop; who was disregarded there stays so. */
function letThroughByHand(verdict: KeepOutVerdict, gestures: GestureVerdict): KeepOutVerdict {
  if (!verdict.keptOut || gestures.filings.length === 0) return verdict;
  const entry: StopEntry = {
    stop: 'keepOut',
    verdict: 'passed',
    rule: gestures.rule,
    evidence: [...verdict.entry.evidence, ...gestures.evidence],
  };
  return { keptOut: false, remaining: [], entry };
}

function takenInByHand(entry: StopEntry, gestures: GestureVerdict): StopEntry {
  if (!gestures.takesIn) return entry;
  return { stop: 'takeIn', verdict: 'tracked', rule: gestures.rule, evidence: gestures.evidence };
}

type Level = Extract<Evidence, { fact: 'level' }>;

/** Who sees the email: under no record, or from a mailbox that is its owner's only, those who use the mailbox. */
function levelOf(filings: readonly Filing[], facts: DecisionFacts, rulebook: CompiledRulebook): Level {
  if (filings.length === 0) return { fact: 'level', level: 'owner', because: 'not filed' };
  const { level } = rulebook.source.share;
  if (level === 'everyone' && !facts.sharedByRules) return { fact: 'level', level: 'owner', because: 'mailbox' };
  return { fact: 'level', level, because: 'policy' };
}

const LEVEL_RULES: Record<Level['because'], string | null> = { policy: RULES.level, mailbox: RULES.mailboxOwner, 'not filed': null };

/** The stop that says who sees the email. */
function share(filings: readonly Filing[], facts: DecisionFacts, rulebook: CompiledRulebook): StopEntry {
  const said = levelOf(filings, facts, rulebook);
  return { stop: 'share', verdict: said.level, rule: LEVEL_RULES[said.because], evidence: [said] };
}
