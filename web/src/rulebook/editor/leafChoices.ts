import { NO_RECORD_YET } from '@fulvet/core';
import type { Action, Condition, Leaf, ParticipantTest, RecordTest, RuleStep } from '@fulvet/core';
import type { ChoiceOption } from '../../parts/Choice';

/** What a condition can be begun with, each with a first value that is complete. */
export const FACTS: (ChoiceOption<string> & { start: Leaf })[] = [
  { value: 'participant', label: 'an external person …', start: { fact: 'participant', which: 'any', test: { is: 'unknown' } } },
  { value: 'direction', label: 'sent or received …', start: { fact: 'direction', in: ['received'] } },
  { value: 'mailClass', label: 'kind of mail …', start: { fact: 'mailClass', in: ['newsletter'] } },
  { value: 'subject', label: 'the subject …', start: { fact: 'subject', test: { contains: ['invoice'] } } },
  { value: 'body', label: 'the text …', start: { fact: 'body', test: { contains: ['unsubscribe'] } } },
  { value: 'attachment', label: 'attachments …', start: { fact: 'attachment', test: { any: true } } },
  { value: 'conversation', label: 'the conversation …', start: { fact: 'conversation', is: 'first' } },
  {
    value: 'filedUnder',
    label: 'where its conversation is filed …',
    start: { fact: 'filedUnder', kind: 'account', id: NO_RECORD_YET, name: '' },
  },
  { value: 'record', label: 'the account or deal …', start: { fact: 'record', test: { field: 'accountType', in: ['customer'] } } },
  { value: 'recipients', label: 'number of recipients …', start: { fact: 'recipients', atLeast: 20 } },
  { value: 'size', label: 'size …', start: { fact: 'size', atLeast: 5_000_000 } },
  { value: 'folder', label: 'folder …', start: { fact: 'folder', in: ['INBOX'] } },
  { value: 'mailbox', label: 'mailbox …', start: { fact: 'mailbox', in: ['name@our-domain.example'] } },
  { value: 'team', label: 'team of the mailbox …', start: { fact: 'team', in: ['a team'] } },
  { value: 'user', label: 'member’s mailbox …', start: { fact: 'user', in: ['name@our-domain.example'] } },
  { value: 'senderCheck', label: 'whether its sender is proven …', start: { fact: 'senderCheck', in: ['failed'] } },
  { value: 'sensitivity', label: 'what the sender marked it …', start: { fact: 'sensitivity', in: ['private'] } },
];

export const WHICH: ChoiceOption<'sender' | 'recipient' | 'any' | 'every' | 'this'>[] = [
  { value: 'any', label: 'any external participant' },
  { value: 'every', label: 'every external participant' },
  { value: 'sender', label: 'the sender' },
  { value: 'recipient', label: 'a recipient' },
  { value: 'this', label: 'this person', hint: 'The one that a rule of Create is asked about.' },
];

/** Tests of a participant; those with a value begin with an empty one. */
export const TESTS: (ChoiceOption<ParticipantTest['is']> & { start: ParticipantTest })[] = [
  { value: 'domain', label: 'is at the domain', start: { is: 'domain', value: '', exactly: false } },
  { value: 'address', label: 'is', start: { is: 'address', value: '' }, hint: 'One address.' },
  { value: 'inList', label: 'is in the list', start: { is: 'inList', list: '' } },
  { value: 'matches', label: 'has an address like', start: { is: 'matches', pattern: '' }, hint: 'A pattern (RE2).' },
  { value: 'contact', label: 'is a contact', start: { is: 'contact' } },
  { value: 'lead', label: 'is a lead', start: { is: 'lead' } },
  { value: 'account', label: 'belongs to an account', start: { is: 'account' } },
  { value: 'onOpenDeal', label: 'is on an open deal', start: { is: 'onOpenDeal' } },
  { value: 'unknown', label: 'is unknown', start: { is: 'unknown' } },
  { value: 'roleAddress', label: 'has a role address', start: { is: 'roleAddress' }, hint: 'Such as info@ or invoices@.' },
  { value: 'publicProvider', label: 'is at a public mail provider', start: { is: 'publicProvider' } },
];

export const RECORD_FIELDS: (ChoiceOption<RecordTest['field']> & { start: RecordTest })[] = [
  { value: 'accountType', label: 'the account’s type is', start: { field: 'accountType', in: ['customer'] } },
  { value: 'accountOwner', label: 'the account’s owner is', start: { field: 'accountOwner', in: ['name@our-domain.example'] } },
  { value: 'dealStage', label: 'a deal’s stage is', start: { field: 'dealStage', in: ['Quoted'] } },
  { value: 'dealOwner', label: 'a deal’s owner is', start: { field: 'dealOwner', in: ['name@our-domain.example'] } },
  { value: 'dealOpen', label: 'a deal is open', start: { field: 'dealOpen', is: true } },
  { value: 'dealAmount', label: 'a deal is worth at least', start: { field: 'dealAmount', atLeast: 10_000 } },
  {
    value: 'own',
    label: 'a field of our own',
    start: { field: 'own', of: 'account', key: 'field', test: { in: ['yes'] } },
    hint: 'One that was added to the records here.',
  },
];

const AFTER = { account: true, after: 'weWrote', emails: 3, owner: 'mailbox' } as const;

/** What a rule of each step can do. */
export const ACTION_CHOICES: { [Step in RuleStep]: (ChoiceOption<string> & { start: Action<Step> })[] } = {
  keepOut: [
    {
      value: 'ignore',
      label: 'ignore those participants',
      start: { do: 'ignore' },
      hint: 'The email stays for the others; it is kept out if no external participant is left.',
    },
    { value: 'keepOut', label: 'keep the email out', start: { do: 'keepOut' } },
    { value: 'letThrough', label: 'let it through', start: { do: 'letThrough' }, hint: 'Whatever later rules say.' },
  ],
  takeIn: [
    { value: 'takeIn', label: 'take it in', start: { do: 'takeIn' } },
    { value: 'leaveToOwner', label: 'leave it to its owner', start: { do: 'leaveToOwner' } },
  ],
  match: [
    { value: 'neverDeals', label: 'file it under no deal', start: { do: 'neverDeals' } },
    { value: 'neverAccounts', label: 'file it under no account', start: { do: 'neverAccounts' } },
    { value: 'hold', label: 'ask a person', start: { do: 'hold' } },
    { value: 'fileUnder', label: 'file it under a record …', start: { do: 'fileUnder', kind: 'account', id: NO_RECORD_YET, name: '' } },
  ],
  create: [
    { value: 'contact', label: 'create a contact', start: { do: 'contact', ...AFTER } },
    { value: 'lead', label: 'create a lead', start: { do: 'lead', ...AFTER } },
    { value: 'nothing', label: 'create no one', start: { do: 'nothing' } },
    { value: 'ask', label: 'ask a person first', start: { do: 'ask' } },
  ],
  share: [
    { value: 'owner', label: 'its owner only sees it', start: { do: 'owner' } },
    {
      value: 'record',
      label: 'those who own its records see',
      start: { do: 'record', existenceOnly: false },
      hint: 'Owners of the account, deal or people it is filed under.',
    },
    { value: 'teams', label: 'teams see', start: { do: 'teams', teams: [], existenceOnly: false } },
    { value: 'everyone', label: 'everyone sees', start: { do: 'everyone', existenceOnly: false } },
  ],
};

export const GROUPS: ChoiceOption<'all' | 'any' | 'none'>[] = [
  { value: 'all', label: 'all of these are true' },
  { value: 'any', label: 'any of these is true' },
  { value: 'none', label: 'none of these is true' },
];

export function groupOf(how: 'all' | 'any' | 'none', members: Condition[]): Condition {
  return how === 'all' ? { all: members } : how === 'any' ? { any: members } : { none: members };
}
