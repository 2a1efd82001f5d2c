import { directionOf, externalParticipants } from '../decision/decide';
import type { DecisionFacts } from '../facts/types';
import type { Participant } from '../emails/emailFacts';
import { LISTS } from './ruleWorld';
import { compileRulebook } from '../rulebook/compile';
import type { Condition, Leaf, ParticipantTest } from '../rulebook/condition';
import type { Action, Rule, RuleStep } from '../rulebook/rule';
import type { Rulebook } from '../rulebook/schema';

/*
 * A plain interpreter of rules, written for being read and not for speed: no index, no closures, no ordering by cost. What is compiled
 * must say the same on any rulebook and any email.
 */

const CONTACTS = ['ida@harbour.example', 'jo@harbour.example'];
const LEADS = ['lea@dredge.example'];
const PROVIDERS = ['freemail.example'];

interface Asked {
  facts: DecisionFacts;
  externals: Participant[];
  direction: string;
  focus: Participant | null;
}

function holds(condition: Condition, asked: Asked): boolean {
  if ('all' in condition) return condition.all.every((item) => holds(item, asked));
  if ('any' in condition) return condition.any.some((item) => holds(item, asked));
  if ('none' in condition) return !condition.none.some((item) => holds(item, asked));
  return leafHolds(condition, asked);
}

function leafHolds(leaf: Leaf, { facts, externals, direction, focus }: Asked): boolean {
  switch (leaf.fact) {
    case 'participant': {
      const asked = externals.filter((external) =>
        leaf.which === 'sender'
          ? external.role === 'from'
          : leaf.which === 'recipient'
            ? external.role !== 'from'
            : leaf.which !== 'this' || !focus || external === focus,
      );
      const yes = asked.filter((participant) => isSo(leaf.test, participant));
      return leaf.which === 'every' ? asked.length > 0 && yes.length === asked.length : yes.length > 0;
    }
    case 'direction':
      return (leaf.in as string[]).includes(direction);
    case 'mailClass':
      return (leaf.in as string[]).includes(facts.mailClass);
    case 'subject':
      return 'contains' in leaf.test && leaf.test.contains.some((word) => facts.subject.toLowerCase().includes(word.toLowerCase()));
    case 'recipients':
      return facts.participants.filter((participant) => ['to', 'cc', 'bcc'].includes(participant.role)).length >= leaf.atLeast;
    case 'size':
      return facts.size >= leaf.atLeast;
    case 'team':
      return leaf.in.some((value) => facts.teams.includes(value));
    default:
      throw new Error(`The plain interpreter is not asked about ${leaf.fact}.`);
  }
}

function isSo(test: ParticipantTest, { address, domain }: Participant): boolean {
  const under = (value: string): boolean => domain === value || domain.endsWith(`.${value}`);
  switch (test.is) {
    case 'address':
      return address === test.value.toLowerCase();
    case 'domain':
      return test.exactly ? domain === test.value : under(test.value);
    case 'inList':
      return LISTS.some(
        (list) =>
          list.id === test.list && list.entries.some((entry) => (entry.kind === 'address' ? entry.value === address : under(entry.value))),
      );
    case 'contact':
      return CONTACTS.includes(address);
    case 'lead':
      return LEADS.includes(address);
    case 'account':
      return under('harbour.example');
    case 'unknown':
      return !CONTACTS.includes(address) && !LEADS.includes(address);
    case 'roleAddress':
      return /^(?:info|no-reply)@/.test(address);
    case 'publicProvider':
      return PROVIDERS.includes(domain);
    default:
      throw new Error(`The plain interpreter is not asked about ${test.is}.`);
  }
}

const speaks = ({ on, when, appliesTo }: Rule, asked: Asked): boolean => {
  const teams = appliesTo.teams ?? [];
  return on && (teams.length === 0 || teams.some((team) => asked.facts.teams.includes(team))) && holds(when, asked);
};

/** Participants whom a condition names: those of every fact about participants that holds, where none stands under “none”. */
function namedIn(condition: Condition, asked: Asked): string[] {
  if ('none' in condition) return [];
  if ('all' in condition) return condition.all.flatMap((item) => namedIn(item, asked));
  if ('any' in condition) return condition.any.filter((item) => holds(item, asked)).flatMap((item) => namedIn(item, asked));
  if (condition.fact !== 'participant') return [];
  const { which, test } = condition;
  return asked.externals
    .filter((external) => (which === 'sender' ? external.role === 'from' : which === 'recipient' ? external.role !== 'from' : true))
    .filter((external) => isSo(test, external))
    .map((external) => external.address);
}

/** What the steps say by their rules alone: kept out by which, taken in by which, which apply at Match, who sees it by which. */
export function plainly(rulebook: Rulebook, facts: DecisionFacts): unknown {
  const compiled = compileRulebook(rulebook, { teamAddresses: [], publicProviders: new Set(PROVIDERS), lists: LISTS });
  const externals = externalParticipants(facts.participants, compiled);
  const direction = directionOf(facts.participants, externals, compiled);
  const asked: Asked = { facts, externals, direction, focus: null };
  const gone = new Set<string>();
  let kept: string | null = null;
  let passed = false;
  for (const item of rulebook.keepOut.rules as Rule<Action<'keepOut'>>[]) {
    if (kept !== null || passed || !speaks(item, asked)) continue;
    if (item.then.do === 'letThrough') passed = true;
    else {
      const named = namedIn(item.when, asked);
      if (item.then.do === 'keepOut' || named.length === 0) kept = item.id;
      else for (const address of named) gone.add(address);
    }
  }
  const left = externals.filter((external) => !gone.has(external.address));
  if (kept !== null) return { keptOut: true };
  if (!passed && (direction === 'internal' || rulebook.keepOut.machineMail.includes(facts.mailClass as never))) return { keptOut: true };
  if (!passed && externals.length > 0 && left.length === 0) return { keptOut: true };
  const after: Asked = { ...asked, externals: left };
  const first = (step: RuleStep): string | undefined => (rulebook[step].rules as Rule[]).find((item) => speaks(item, after))?.id;
  const takenBy = left.length > 0 ? first('takeIn') : undefined;
  const said = (rulebook.takeIn.rules as Rule<Action<'takeIn'>>[]).find((item) => item.id === takenBy)?.then.do;
  const tracked = said === undefined ? left.length > 0 : said === 'takeIn';
  if (!tracked) return { keptOut: false, tracked: false };
  return {
    keptOut: false,
    tracked: true,
    takenBy,
    matching: (rulebook.match.rules as Rule[]).filter((item) => speaks(item, after)).map((item) => item.id),
    sharedBy: first('share'),
  };
}
