import { NO_RECORD_YET } from '@fulvet/core';
import type { Action, Condition, Leaf, ParticipantTest, RecordTest, RuleStep } from '@fulvet/core';
import type { ChoiceOption } from '../../parts/Choice';
import { common } from '../../parts/words';
import { leafChoices as words } from './words';

/** What a condition can be begun with, each with a first value that is complete. */
export const FACTS: (ChoiceOption<string> & { start: Leaf })[] = [
  { value: 'participant', label: words.anExternalPerson, start: { fact: 'participant', which: 'any', test: { is: 'unknown' } } },
  { value: 'direction', label: words.sentOrReceived, start: { fact: 'direction', in: ['received'] } },
  { value: 'mailClass', label: words.kindOfMail, start: { fact: 'mailClass', in: ['newsletter'] } },
  { value: 'subject', label: words.theSubject, start: { fact: 'subject', test: { contains: ['invoice'] } } },
  { value: 'body', label: words.theText, start: { fact: 'body', test: { contains: ['unsubscribe'] } } },
  { value: 'attachment', label: words.attachments, start: { fact: 'attachment', test: { any: true } } },
  { value: 'conversation', label: words.theConversation, start: { fact: 'conversation', is: 'first' } },
  {
    value: 'filedUnder',
    label: words.whereItsConversationIs,
    start: { fact: 'filedUnder', kind: 'account', id: NO_RECORD_YET, name: '' },
  },
  { value: 'record', label: words.theAccountOrDeal, start: { fact: 'record', test: { field: 'accountType', in: ['customer'] } } },
  { value: 'recipients', label: words.numberOfRecipients, start: { fact: 'recipients', atLeast: 20 } },
  { value: 'size', label: words.size, start: { fact: 'size', atLeast: 5_000_000 } },
  { value: 'folder', label: words.folder, start: { fact: 'folder', in: ['INBOX'] } },
  { value: 'mailbox', label: words.mailbox, start: { fact: 'mailbox', in: ['name@our-domain.example'] } },
  { value: 'team', label: words.teamOfTheMailbox, start: { fact: 'team', in: [words.aTeam] } },
  { value: 'user', label: words.membersMailbox, start: { fact: 'user', in: ['name@our-domain.example'] } },
  { value: 'senderCheck', label: words.whetherItsSenderIs, start: { fact: 'senderCheck', in: ['failed'] } },
  { value: 'sensitivity', label: words.whatTheSenderMarked, start: { fact: 'sensitivity', in: ['private'] } },
];

export const WHICH: ChoiceOption<'sender' | 'recipient' | 'any' | 'every' | 'this'>[] = [
  { value: 'any', label: words.anyExternalParticipant },
  { value: 'every', label: words.everyExternalParticipant },
  { value: 'sender', label: words.theSender },
  { value: 'recipient', label: words.aRecipient },
  { value: 'this', label: common.thisPerson, hint: words.theOneThatA },
];

/** Tests of a participant; those with a value begin with an empty one. */
export const TESTS: (ChoiceOption<ParticipantTest['is']> & { start: ParticipantTest })[] = [
  { value: 'domain', label: words.isAtTheDomain, start: { is: 'domain', value: '', exactly: false } },
  { value: 'address', label: words.is, start: { is: 'address', value: '' }, hint: words.oneAddress },
  { value: 'inList', label: words.isInTheList, start: { is: 'inList', list: '' } },
  { value: 'matches', label: words.hasAnAddressLike, start: { is: 'matches', pattern: '' }, hint: words.aPatternRe },
  { value: 'contact', label: words.isAContact, start: { is: 'contact' } },
  { value: 'lead', label: words.isALead, start: { is: 'lead' } },
  { value: 'account', label: words.belongsToAnAccount, start: { is: 'account' } },
  { value: 'onOpenDeal', label: words.isOnAnOpen, start: { is: 'onOpenDeal' } },
  { value: 'unknown', label: words.isUnknown, start: { is: 'unknown' } },
  { value: 'roleAddress', label: words.hasARoleAddress, start: { is: 'roleAddress' }, hint: words.suchAsInfoOr },
  { value: 'publicProvider', label: words.isAtAPublic, start: { is: 'publicProvider' } },
];

export const RECORD_FIELDS: (ChoiceOption<RecordTest['field']> & { start: RecordTest })[] = [
  { value: 'accountType', label: words.theAccountsTypeIs, start: { field: 'accountType', in: ['customer'] } },
  { value: 'accountOwner', label: words.theAccountsOwnerIs, start: { field: 'accountOwner', in: ['name@our-domain.example'] } },
  { value: 'dealStage', label: words.aDealsStageIs, start: { field: 'dealStage', in: [words.quoted] } },
  { value: 'dealOwner', label: words.aDealsOwnerIs, start: { field: 'dealOwner', in: ['name@our-domain.example'] } },
  { value: 'dealOpen', label: words.aDealIsOpen, start: { field: 'dealOpen', is: true } },
  { value: 'dealAmount', label: words.aDealIsWorth, start: { field: 'dealAmount', atLeast: 10_000 } },
  { value: 'ownOpen', label: words.theyHaveA, start: { field: 'ownOpen', kind: 'case', is: true }, hint: words.ofAKindThat },
  {
    value: 'own',
    label: words.aFieldOfOur,
    start: { field: 'own', of: 'account', key: 'field', test: { in: ['yes'] } },
    hint: words.oneThatWasAdded,
  },
];

const AFTER = { account: true, after: 'weWrote', emails: 3, owner: 'mailbox' } as const;

/** What a rule of each step can do. */
export const ACTION_CHOICES: { [Step in RuleStep]: (ChoiceOption<string> & { start: Action<Step> })[] } = {
  keepOut: [
    {
      value: 'ignore',
      label: words.ignoreThoseParticipants,
      start: { do: 'ignore' },
      hint: words.theEmailStaysFor,
    },
    { value: 'keepOut', label: words.keepTheEmailOut, start: { do: 'keepOut' } },
    { value: 'letThrough', label: words.letItThrough, start: { do: 'letThrough' }, hint: words.whateverLaterRulesSay },
  ],
  takeIn: [
    { value: 'takeIn', label: words.takeItIn, start: { do: 'takeIn' } },
    { value: 'leaveToOwner', label: words.leaveItToIts, start: { do: 'leaveToOwner' } },
  ],
  match: [
    { value: 'neverDeals', label: words.fileItUnderNo, start: { do: 'neverDeals' } },
    { value: 'neverAccounts', label: words.fileItUnderNoAccount, start: { do: 'neverAccounts' } },
    { value: 'hold', label: words.askAPerson, start: { do: 'hold' } },
    { value: 'fileUnder', label: words.fileItUnderA, start: { do: 'fileUnder', kind: 'account', id: NO_RECORD_YET, name: '' } },
  ],
  create: [
    { value: 'contact', label: words.createAContact, start: { do: 'contact', ...AFTER } },
    { value: 'lead', label: words.createALead, start: { do: 'lead', ...AFTER } },
    { value: 'nothing', label: words.createNoOne, start: { do: 'nothing' } },
    { value: 'ask', label: words.askAPersonFirst, start: { do: 'ask' } },
  ],
  share: [
    { value: 'owner', label: words.itsOwnerOnlySees, start: { do: 'owner' } },
    {
      value: 'record',
      label: words.thoseWhoOwnIts,
      start: { do: 'record', existenceOnly: false },
      hint: words.ownersOfTheAccount,
    },
    { value: 'teams', label: words.teamsSee, start: { do: 'teams', teams: [], existenceOnly: false } },
    { value: 'everyone', label: words.everyoneSees, start: { do: 'everyone', existenceOnly: false } },
  ],
};

export const GROUPS: ChoiceOption<'all' | 'any' | 'none'>[] = [
  { value: 'all', label: words.allOfTheseAre },
  { value: 'any', label: words.anyOfTheseIs },
  { value: 'none', label: words.noneOfTheseIs },
];

export function groupOf(how: 'all' | 'any' | 'none', members: Condition[]): Condition {
  return how === 'all' ? { all: members } : how === 'any' ? { any: members } : { none: members };
}
