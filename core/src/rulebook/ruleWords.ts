import type { Condition, Leaf, ParticipantTest, RecordTest, TextTest } from './condition';
import { membersOf } from './condition';
import type { Action, Rule, RuleStep } from './rule';
import { NO_RECORD_YET } from './rule';

/** Names of address lists by id. */
export type ListNames = ReadonlyMap<string, string>;

/** A condition as the part of a sentence behind “when”. */
export function conditionWords(condition: Condition, lists: ListNames = new Map()): string {
  const group = membersOf(condition);
  if (group === null) return leafWords(condition as Leaf, lists);
  const parts = group.members.map((member) => {
    const words = conditionWords(member, lists);
    return (membersOf(member)?.members.length ?? 0) > 1 ? `(${words})` : words;
  });
  if (group.how === 'all') return parts.length === 0 ? 'always' : parts.join(' and ');
  if (group.how === 'any') return parts.length === 0 ? 'never' : parts.join(' or ');
  return parts.length === 0 ? 'always' : `not (${parts.join(' or ')})`;
}

const WHICH_WORDS = {
  sender: 'the sender',
  recipient: 'a recipient',
  any: 'any external participant',
  every: 'every external participant',
  this: 'this person',
} as const;

const CHECK_WORDS = { passed: 'confirmed its sender', failed: 'found its sender forged', none: 'did not check its sender' } as const;

function leafWords(leaf: Leaf, lists: ListNames): string {
  switch (leaf.fact) {
    case 'participant':
      return `${WHICH_WORDS[leaf.which]} ${testWords(leaf.test, lists)}`;
    case 'direction':
      return `it is ${leaf.in.join(' or ')}`;
    case 'mailClass':
      return `it is ${leaf.in.map((value) => (value === 'person' ? 'a person’s mail' : value)).join(' or ')}`;
    case 'sensitivity':
      return `the sender marked it ${leaf.in.join(' or ')}`;
    case 'senderCheck':
      return `the receiving server ${leaf.in.map((check) => CHECK_WORDS[check]).join(' or ')}`;
    case 'subject':
      return `the subject ${textWords(leaf.test)}`;
    case 'body':
      return `the text ${textWords(leaf.test)}`;
    case 'attachment':
      return 'any' in leaf.test ? 'it has an attachment' : `an attachment’s name ${textWords(leaf.test.name)}`;
    case 'size':
      return `it has at least ${number(leaf.atLeast)} bytes`;
    case 'folder':
      return `it is in the folder ${leaf.in.join(' or ')}`;
    case 'mailbox':
      return `it is in the mailbox ${leaf.in.join(' or ')}`;
    case 'user':
      return `it is in a mailbox of ${leaf.in.join(' or ')}`;
    case 'team':
      return `it is in a mailbox of the team ${leaf.in.join(' or ')}`;
    case 'conversation':
      return leaf.is === 'first' ? 'it begins a conversation' : 'it answers filed mail';
    case 'filedUnder':
      return `its conversation is filed under ${recordWord(leaf)}`;
    case 'recipients':
      return `it has at least ${number(leaf.atLeast)} recipients`;
    case 'record':
      return recordWords(leaf.test);
  }
}

function testWords(test: ParticipantTest, lists: ListNames): string {
  switch (test.is) {
    case 'address':
      return `is ${test.value}`;
    case 'domain':
      return `is at ${test.exactly ? 'exactly ' : ''}${test.value}`;
    case 'inList':
      return `is in ${lists.get(test.list) ?? `a list that is gone (${test.list})`}`;
    case 'matches':
      return `has an address like ${test.pattern}`;
    case 'contact':
      return 'is a contact';
    case 'lead':
      return 'is a lead';
    case 'account':
      return 'belongs to an account';
    case 'onOpenDeal':
      return 'is on an open deal';
    case 'unknown':
      return 'is in no record';
    case 'roleAddress':
      return 'has a role address';
    case 'publicProvider':
      return 'is at a public mail provider';
  }
}

function textWords(test: TextTest): string {
  return 'pattern' in test ? `matches ${test.pattern}` : `says ${test.contains.map((contain) => `“${contain}”`).join(' or ')}`;
}

function recordWords(test: RecordTest): string {
  switch (test.field) {
    case 'accountType':
      return `the account is a ${test.in.join(' or ')}`;
    case 'accountOwner':
      return `the account is owned by ${test.in.join(' or ')}`;
    case 'dealStage':
      return `a deal is at ${test.in.join(' or ')}`;
    case 'dealOwner':
      return `a deal is owned by ${test.in.join(' or ')}`;
    case 'dealOpen':
      return test.is ? 'a deal is open' : 'a deal is closed';
    case 'dealAmount':
      return `a deal is worth at least ${number(test.atLeast)}`;
    case 'ownOpen':
      return `they have ${test.is ? 'an open' : 'a closed'} ${test.kind.replace(/_/g, ' ')}`;
    case 'own':
      return `the ${test.of === 'own' ? 'record' : test.of}’s ${test.key.replace(/_/g, ' ')} is ${sharingChoices(test.test)}`;
  }
}

function sharingChoices(test: Extract<RecordTest, { field: 'own' }>['test']): string {
  if ('in' in test) return test.in.join(' or ');
  if ('atLeast' in test) return `at least ${number(test.atLeast)}`;
  return 'onOrAfter' in test ? `${test.onOrAfter} or later` : `${test.onOrBefore} or earlier`;
}

/** An action as the part of a sentence behind the condition. */
export function actionWords(action: Action<RuleStep>): string {
  switch (action.do) {
    case 'keepOut':
      return 'keep the email out';
    case 'ignore':
      return 'ignore those participants';
    case 'letThrough':
      return 'let it through';
    case 'takeIn':
      return 'take it in';
    case 'leaveToOwner':
      return 'leave it to its owner';
    case 'fileUnder':
      return `file it under ${recordWord(action)}`;
    case 'neverDeals':
      return 'file it under no deal';
    case 'neverAccounts':
      return 'file it under no account';
    case 'hold':
      return 'ask a person';
    case 'contact':
    case 'lead':
      return `create a ${action.do} ${afterWords(action)}${action.account && action.do === 'contact' ? ', with the account' : ''}${ownerWords(action.owner)}`;
    case 'nothing':
      return 'create no one';
    case 'ask':
      return 'ask a person first';
    case 'owner':
      return 'its owner only sees it';
    case 'record':
      return `those who own its records see ${seenWords(action)}`;
    case 'teams':
      return `the team ${action.teams.join(' and ')} sees ${seenWords(action)}`;
    case 'everyone':
      return `everyone sees ${seenWords(action)}`;
  }
}

export const AFTER_WORDS = {
  firstEmail: 'from the first email on',
  weWrote: 'once we wrote to them',
  theyAnswered: 'once they answered us',
  emails: 'after some emails with them',
} as const;

const afterWords = ({ after, emails }: { after: keyof typeof AFTER_WORDS; emails: number }): string =>
  after === 'emails' ? `after ${emails} ${emails === 1 ? 'email' : 'emails'} with them` : AFTER_WORDS[after];
const ownerWords = (owner: string): string =>
  owner === 'mailbox' ? '' : owner === 'account' ? ', owned by the account’s owner' : `, owned by ${owner}`;
const seenWords = ({ existenceOnly }: { existenceOnly: boolean }): string => (existenceOnly ? 'that it exists' : 'it');

const NOBODY: Rule['appliesTo'] = { mailboxes: [], users: [] };

/** A whole rule in a sentence. */
export function ruleWords(
  rule: Pick<Rule<Action<RuleStep>>, 'when' | 'then'> & Partial<Pick<Rule, 'appliesTo'>>,
  lists: ListNames = new Map(),
): string {
  const words = conditionWords(rule.when, lists);
  const { mailboxes, users, teams = [] } = rule.appliesTo ?? NOBODY;
  const whose = [...mailboxes, ...users, ...teams.map((team) => `the team ${team}`)];
  const scope =
    whose.length > 0
      ? `In mail of ${whose.join(', ')}: ${words === 'always' ? 'always' : `when ${words}`}`
      : words === 'always'
        ? 'Always'
        : `When ${words}`;
  return `${scope}, ${actionWords(rule.then)}.`;
}

export const plain = (value: unknown): string => (typeof value === 'string' ? value : JSON.stringify(value));

function recordWord({ kind, id, name }: { kind: string; id: number; name: string }): string {
  return id === NO_RECORD_YET ? 'a record that is not chosen yet' : `the ${kind} ${name || id}`;
}

const number = (value: number): string => value.toLocaleString('en-US');
