import type { Rulebook } from '@fulvet/core';
import type { ChoiceOption } from '../parts/Choice';

export const SCOPE_OPTIONS: ChoiceOption<Rulebook['takeIn']['scope']>[] = [
  { value: 'external', label: 'all mail with external people', hint: 'Everything that is not kept out.' },
  { value: 'known', label: 'only mail with known people', hint: 'At least one external participant is a contact or a lead.' },
  { value: 'answers', label: 'only answers to filed mail', hint: 'An earlier email of the conversation is filed.' },
  { value: 'byHand', label: 'by hand only', hint: 'Every email is left to its owner.' },
];
export const ACCOUNT_OPTIONS: ChoiceOption<Rulebook['match']['account']>[] = [
  { value: 'personOrDomain', label: 'the person’s account, else the one that owns the domain' },
  { value: 'person', label: 'the person’s account only', hint: 'Unknown people at a known company are not filed.' },
  { value: 'never', label: 'no account' },
];
export const DEAL_OPTIONS: ChoiceOption<Rulebook['match']['deal']>[] = [
  {
    value: 'certain',
    label: 'a deal when it is certain',
    hint: 'By conversation, by code, by its name in the subject, or the only open deal of these people. Several open deals: the email waits.',
  },
  {
    value: 'scored',
    label: 'the deal that fits best',
    hint: 'As before; where several are open, by people, owner, words of the subject and recency, when one is clearly ahead.',
  },
  { value: 'never', label: 'never a deal' },
];
export const PEOPLE_OPTIONS: ChoiceOption<Rulebook['create']['people']>[] = [
  { value: 'nothing', label: 'nothing', hint: 'No records are created.' },
  { value: 'contact', label: 'a contact' },
  { value: 'lead', label: 'a lead' },
];
export const AFTER_OPTIONS: ChoiceOption<Rulebook['create']['after']>[] = [
  { value: 'weWrote', label: 'once we wrote to them' },
  { value: 'firstEmail', label: 'from the first email on', hint: 'Whoever writes to us becomes a record.' },
  { value: 'theyAnswered', label: 'once they answered us', hint: 'They write in a conversation in which we wrote before.' },
  { value: 'emails', label: 'after some emails with them', hint: 'So many emails of people, either way.' },
];
export const ACCOUNTS_OPTIONS: ChoiceOption<'yes' | 'no'>[] = [
  { value: 'yes', label: 'with an account from the domain' },
  { value: 'no', label: 'without a new account' },
];
export const LEVEL_OPTIONS: ChoiceOption<Rulebook['share']['level']>[] = [
  {
    value: 'owner',
    label: 'only the owners of its mailboxes',
    hint: 'Administrators see that it exists and how it was decided, not what it says.',
  },
  {
    value: 'record',
    label: 'those who own its records',
    hint: 'Owners of the account, deal or people it is filed under, and the owners of its mailboxes.',
  },
  {
    value: 'everyone',
    label: 'everyone in the workspace',
    hint: 'Every member reads every filed email. Unfiled mail stays with its owner.',
  },
];
export const SHOWN_OPTIONS: ChoiceOption<'content' | 'existence'>[] = [
  { value: 'content', label: 'what it says' },
  {
    value: 'existence',
    label: 'only that it exists',
    hint: 'When, which colleague, which external company. No subject, no text, no names.',
  },
];
/** Whether the owner of a mailbox may do something that the rulebook does not say. */
export const LOCK_OPTIONS = (what: string): ChoiceOption<'free' | 'locked'>[] => [
  { value: 'free', label: `may ${what}` },
  { value: 'locked', label: `may not ${what}`, hint: 'What owners chose before stays.' },
];
export const OWNER_OPTIONS: ChoiceOption<string>[] = [
  { value: 'mailbox', label: 'owned by whoever has the email' },
  { value: 'account', label: 'owned by the account’s owner', hint: 'Where the account has one; else by whoever has the email.' },
];
export const CLASS_LABELS: Record<string, string> = {
  newsletter: 'newsletters',
  notice: 'notices',
  'auto-reply': 'automatic replies',
  bounce: 'bounces',
  calendar: 'calendar mail',
};

const labelOf = <T extends string>(options: readonly ChoiceOption<T>[], value: T): string =>
  options.find((option) => option.value === value)?.label ?? value;

/** What the rulebook does, one sentence a step, each with the page that changes it. */
export function inForce(rulebook: Rulebook): { to: string; text: string }[] {
  const { keepOut, takeIn, match, create, share } = rulebook;
  const kept = [
    ...(keepOut.internal ? ['internal mail'] : []),
    ...keepOut.machineMail.map((machineEmail) => CLASS_LABELS[machineEmail] ?? machineEmail),
  ];
  const entries = keepOut.entries.length > 0 ? ` and ${keepOut.entries.length} domains and addresses` : '';
  const created =
    create.people === 'nothing'
      ? 'No records are created.'
      : `Unknown people become ${labelOf(PEOPLE_OPTIONS, create.people)} ${create.after === 'emails' ? `after ${create.emails} emails with them` : labelOf(AFTER_OPTIONS, create.after)}${create.people === 'contact' ? `, ${labelOf(ACCOUNTS_OPTIONS, create.accounts ? 'yes' : 'no')}` : ''}.`;
  return [
    {
      to: '/keep-out',
      text: kept.length + keepOut.entries.length > 0 ? `Kept out: ${kept.join(', ')}${entries}.` : 'Nothing is kept out.',
    },
    { to: '/take-in', text: `Taken in: ${labelOf(SCOPE_OPTIONS, takeIn.scope)}.` },
    { to: '/match', text: `Filed under the people, ${labelOf(ACCOUNT_OPTIONS, match.account)}, and ${labelOf(DEAL_OPTIONS, match.deal)}.` },
    { to: '/create', text: created },
    {
      to: '/share',
      text: `Filed mail is seen by ${labelOf(LEVEL_OPTIONS, share.level)}${share.existenceOnly && share.level !== 'owner' ? ', who see only that it exists' : ''}.`,
    },
  ];
}
