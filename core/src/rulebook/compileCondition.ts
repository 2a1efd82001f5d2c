import { domainToAscii } from '../domain/domain';
import type { Participant } from '../emails/emailFacts';
import type { Condition, Leaf, ParticipantTest, RecordTest, TextTest } from './condition';
import { membersOf } from './condition';
import type { Hit } from './hit';
import type { CompiledList } from './addressList';
import { compilePattern } from './pattern';
import type { RuleContext } from './ruleContext';

/** Asks a condition about an email: what was found true, or null when it does not hold. */
export type Test = (context: RuleContext) => readonly Hit[] | null;

/** What stands outside the condition and is needed to compile it. */
export interface ConditionParts {
  lists: ReadonlyMap<string, CompiledList>;
  personKey: (address: string) => string;
  isPublicProvider: (domain: string) => boolean;
  isRoleAddress: (address: string) => boolean;
}

const NOTHING: readonly Hit[] = [];
const hit = (fact: string, value: string, participant: string | null = null): readonly Hit[] => [{ fact, value, participant }];

/**
 * Compiles a condition into one closure. In a group the cheap facts are asked first.
 *
 * @throws {BadPattern} when a pattern cannot be read
 */
export function compileCondition(condition: Condition, parts: ConditionParts): Test {
  const group = membersOf(condition);
  if (group === null) return compileLeaf(condition as Leaf, parts);
  const tests = [...group.members].sort((first, second) => costOf(first) - costOf(second)).map((member) => compileCondition(member, parts));
  switch (group.how) {
    case 'all':
      return (context) => everyOf(tests, context);
    case 'any':
      return (context) => someOf(tests, context);
    case 'none':
      return (context) => (someOf(tests, context) === null ? NOTHING : null);
  }
}

function everyOf(tests: readonly Test[], context: RuleContext): readonly Hit[] | null {
  let found: readonly Hit[] = NOTHING;
  for (const test of tests) {
    const hits = test(context);
    if (hits === null) return null;
    found = hits.length === 0 ? found : [...found, ...hits];
  }
  return found;
}

/** All that hold speak, so that every participant concerned is named. */
function someOf(tests: readonly Test[], context: RuleContext): readonly Hit[] | null {
  let found: readonly Hit[] | null = null;
  for (const test of tests) {
    const hits = test(context);
    if (hits !== null) found = [...(found ?? NOTHING), ...hits];
  }
  return found;
}

/** Relative cost of asking: facts at hand, then texts, then records. */
function costOf(condition: Condition): number {
  const group = membersOf(condition);
  if (group !== null) return group.members.reduce((sum, member) => sum + costOf(member), 1);
  const leaf = condition as Leaf;
  if (leaf.fact === 'body') return 50;
  if (leaf.fact === 'record') return 20;
  if (leaf.fact === 'subject' || leaf.fact === 'attachment') return 10;
  return 1;
}

function compileLeaf(leaf: Leaf, parts: ConditionParts): Test {
  switch (leaf.fact) {
    case 'participant':
      return participantLeaf(leaf.which, compileParticipant(leaf.test, parts));
    case 'direction':
      return oneOf('direction', leaf.in, ({ direction }) => direction);
    case 'mailClass':
      return oneOf('mail class', leaf.in, ({ facts }) => facts.mailClass);
    case 'sensitivity':
      return oneOf('sensitivity', leaf.in, ({ facts }) => facts.sensitivity);
    case 'senderCheck':
      return oneOf('sender check', leaf.in, ({ facts }) => facts.senderCheck);
    case 'subject':
      return textLeaf('subject', leaf.test, ({ facts }) => [facts.subject]);
    case 'body':
      return textLeaf('text', leaf.test, ({ facts }) => [facts.text]);
    case 'attachment':
      return 'any' in leaf.test
        ? ({ facts }) => (facts.attachments.length > 0 ? hit('attachment', facts.attachments[0] ?? '') : null)
        : textLeaf('attachment', leaf.test.name, ({ facts }) => facts.attachments);
    case 'size':
      return ({ facts }) => (facts.size >= leaf.atLeast ? hit('size', String(facts.size)) : null);
    case 'recipients':
      return ({ facts }) => {
        const count = facts.participants.filter(
          (participant) => participant.role === 'to' || participant.role === 'cc' || participant.role === 'bcc',
        ).length;
        return count >= leaf.atLeast ? hit('recipients', String(count)) : null;
      };
    case 'folder':
      return anyOf('folder', leaf.in, ({ facts }) => facts.folders);
    case 'mailbox':
      return anyOf('mailbox', leaf.in, ({ facts }) => facts.mailboxes);
    case 'user':
      return anyOf('member', leaf.in, ({ facts }) => facts.users);
    case 'team':
      return anyOf('team', leaf.in, ({ facts }) => facts.teams);
    case 'conversation':
      return leaf.is === 'first'
        ? ({ memory }) => (memory.earlier === 0 ? hit('conversation', 'first email') : null)
        : ({ memory }) => (memory.filed ? hit('conversation', 'answer to filed mail') : null);
    case 'filedUnder': {
      const key = `${leaf.kind}:${leaf.id}`;
      return ({ memory }) => (memory.records.has(key) ? hit('conversation', `filed under ${leaf.name || key}`) : null);
    }
    case 'record':
      return recordLeaf(leaf.test);
  }
}

function oneOf<T extends string>(fact: string, wanted: readonly T[], valueOf: (context: RuleContext) => T | null): Test {
  const set = new Set(wanted);
  return (context) => {
    const value = valueOf(context);
    return value !== null && set.has(value) ? hit(fact, value) : null;
  };
}

function anyOf(fact: string, wanted: readonly string[], valuesOf: (context: RuleContext) => readonly string[]): Test {
  const set = new Set(wanted.map((value) => value.toLowerCase()));
  return (context) => {
    const value = valuesOf(context).find((item) => set.has(item.toLowerCase()));
    return value === undefined ? null : hit(fact, value);
  };
}

function textLeaf(fact: string, test: TextTest, textsOf: (context: RuleContext) => readonly string[]): Test {
  const find = compileText(test);
  return (context) => {
    for (const text of textsOf(context)) {
      const found = find(text);
      if (found !== null) return hit(fact, found.slice(0, 120));
    }
    return null;
  };
}

function compileText(test: TextTest): (text: string) => string | null {
  if ('pattern' in test) return compilePattern(test.pattern);
  const wanted = test.contains.map((contain) => contain.toLowerCase());
  return (text) => {
    const lower = text.toLowerCase();
    return wanted.find((value) => lower.includes(value)) ?? null;
  };
}

/** Asks about one participant; the value that fulfilled the test, or null. */
type AskParticipant = (participant: Participant, context: RuleContext) => string | null;

function participantLeaf(which: 'sender' | 'recipient' | 'any' | 'every' | 'this', ask: AskParticipant): Test {
  return (context) => {
    const asked = chosen(which, context);
    const hits: Hit[] = [];
    for (const participant of asked) {
      const value = ask(participant, context);
      if (value !== null) hits.push({ fact: 'participant', value, participant: participant.address });
      else if (which === 'every') return null;
    }
    return hits.length > 0 ? hits : null;
  };
}

function chosen(which: 'sender' | 'recipient' | 'any' | 'every' | 'this', { externals, focus }: RuleContext): readonly Participant[] {
  switch (which) {
    case 'sender':
      return externals.filter((external) => external.role === 'from');
    case 'recipient':
      return externals.filter((external) => external.role !== 'from');
    case 'this':
      return focus ? [focus] : externals;
    default:
      return externals;
  }
}

function compileParticipant(test: ParticipantTest, { lists, personKey, isPublicProvider, isRoleAddress }: ConditionParts): AskParticipant {
  switch (test.is) {
    case 'address': {
      const key = personKey(test.value.toLowerCase());
      return (participant) => (personKey(participant.address) === key ? key : null);
    }
    case 'domain': {
      const domain = domainToAscii(test.value);
      const tail = `.${domain}`;
      return (participant) => (participant.domain === domain || (!test.exactly && participant.domain.endsWith(tail)) ? domain : null);
    }
    case 'inList': {
      const list = lists.get(test.list);
      return (participant) => {
        const entry = list?.find(participant.address, participant.domain);
        return entry === undefined ? null : `${entry} in ${list?.list.name ?? ''}`;
      };
    }
    case 'matches': {
      const match = compilePattern(test.pattern);
      return (participant) => match(participant.address);
    }
    case 'contact':
    case 'lead':
      return (participant, context) => context.people(participant).find((person) => person.kind === test.is)?.name ?? null;
    case 'account':
      return (participant, context) => context.accounts(participant)[0]?.name ?? null;
    case 'onOpenDeal':
      return (participant, context) => context.deals(participant).find((deal) => deal.open)?.name ?? null;
    case 'unknown':
      return (participant, context) => (context.people(participant).length === 0 ? 'on no record' : null);
    case 'roleAddress':
      return (participant) =>
        isRoleAddress(participant.address) ? participant.address.slice(0, participant.address.lastIndexOf('@')) : null;
    case 'publicProvider':
      return (participant) => (isPublicProvider(participant.domain) ? participant.domain : null);
  }
}

function recordLeaf(test: RecordTest): Test {
  const find = (context: RuleContext): string | null => {
    for (const external of context.externals) {
      const value = recordValue(test, external, context);
      if (value !== null) return value;
    }
    return null;
  };
  return (context) => {
    const value = find(context);
    return value === null ? null : hit('record', value);
  };
}

function recordValue(test: RecordTest, participant: Participant, context: RuleContext): string | null {
  const has = (wanted: readonly string[], value: string | null): boolean =>
    value !== null && wanted.some((item) => item.toLowerCase() === value.toLowerCase());
  switch (test.field) {
    case 'accountType':
      return context.accounts(participant).find((account) => has(test.in, account.type))?.name ?? null;
    case 'accountOwner':
      return context.accounts(participant).find((account) => has(test.in, account.owner))?.name ?? null;
    case 'dealStage':
      return context.deals(participant).find((deal) => has(test.in, deal.stage))?.name ?? null;
    case 'dealOwner':
      return context.deals(participant).find((deal) => has(test.in, deal.owner))?.name ?? null;
    case 'dealOpen':
      return context.deals(participant).find((deal) => deal.open === test.is)?.name ?? null;
    case 'dealAmount':
      return context.deals(participant).find((deal) => (deal.amount ?? 0) >= test.atLeast)?.name ?? null;
    case 'ownOpen':
      return context.own(participant).find((record) => record.kind === test.kind && record.open === test.is)?.name ?? null;
    case 'own':
      return recordsOfKind(test.of, participant, context).find((record) => ownHolds(test.test, record.own?.[test.key] ?? ''))?.name ?? null;
  }
}

type OwnTest = Extract<RecordTest, { field: 'own' }>;

function recordsOfKind(
  kind: OwnTest['of'],
  participant: Participant,
  context: RuleContext,
): readonly { name: string; own?: Readonly<Record<string, string>> }[] {
  if (kind === 'account') return context.accounts(participant);
  if (kind === 'own') return context.own(participant);
  return kind === 'deal' ? context.deals(participant) : context.people(participant).filter((person) => person.kind === kind);
}

/** An empty field says nothing. */
function ownHolds(test: OwnTest['test'], value: string): boolean {
  if (value === '') return false;
  if ('in' in test) return test.in.some((item) => item.toLowerCase() === value.toLowerCase());
  if ('atLeast' in test) return Number(value) >= test.atLeast;
  // Dates as 2026-05-04 are in order as texts.
  return 'onOrAfter' in test ? value >= test.onOrAfter : value <= test.onOrBefore;
}
