import type { Rulebook } from '@fulvet/core';
import type { ChoiceOption } from '../../parts/Choice';
import { common } from '../../parts/words';
import { defaultSentences as texts } from './words';

export const SCOPE_OPTIONS: ChoiceOption<Rulebook['takeIn']['scope']>[] = [
  { value: 'external', label: texts.allMailWithExternal, hint: texts.everythingThatIsNot },
  { value: 'known', label: texts.onlyMailWithKnown, hint: texts.atLeastOneExternal },
  { value: 'answers', label: texts.onlyAnswersToFiled, hint: texts.anEarlierEmailOf },
  { value: 'byHand', label: texts.byHandOnly, hint: texts.everyEmailIsLeft },
];
export const ACCOUNT_OPTIONS: ChoiceOption<Rulebook['match']['account']>[] = [
  { value: 'personOrDomain', label: texts.thePersonsAccountElse },
  { value: 'person', label: texts.thePersonsAccountOnly, hint: texts.unknownPeopleAtA },
  { value: 'never', label: texts.noAccount },
];
export const DEAL_OPTIONS: ChoiceOption<Rulebook['match']['deal']>[] = [
  {
    value: 'certain',
    label: texts.aDealWhenIt,
    hint: texts.byConversationByCode,
  },
  {
    value: 'scored',
    label: texts.theDealThatFits,
    hint: texts.asBeforeWhereSeveral,
  },
  { value: 'never', label: texts.neverADeal },
];
export const OWN_OPTIONS: ChoiceOption<Rulebook['match']['own'][string]>[] = [
  { value: 'code', label: texts.byNumberConversation, hint: texts.theNumberIn },
  { value: 'onlyOpen', label: texts.alsoTheOnlyOpen, hint: texts.ofThePeople },
  { value: 'scored', label: texts.alsoTheBest, hint: texts.byPeopleOwner },
  { value: 'never', label: texts.byHandAlone },
];
export const PEOPLE_OPTIONS: ChoiceOption<Rulebook['create']['people']>[] = [
  { value: 'nothing', label: texts.nothing, hint: texts.noRecordsAreCreated },
  { value: 'contact', label: texts.aContact },
  { value: 'lead', label: texts.aLead },
];
export const AFTER_OPTIONS: ChoiceOption<Rulebook['create']['after']>[] = [
  { value: 'weWrote', label: texts.onceWeWroteTo },
  { value: 'firstEmail', label: texts.fromTheFirstEmail, hint: texts.whoeverWritesToUs },
  { value: 'theyAnswered', label: texts.onceTheyAnsweredUs, hint: texts.theyWriteInA },
  { value: 'emails', label: texts.afterSomeEmailsWith, hint: texts.soManyEmailsOf },
];
export const ACCOUNTS_OPTIONS: ChoiceOption<'yes' | 'no'>[] = [
  { value: 'yes', label: texts.withAnAccountFrom },
  { value: 'no', label: texts.withoutANewAccount },
];
export const LEVEL_OPTIONS: ChoiceOption<Rulebook['share']['level']>[] = [
  {
    value: 'owner',
    label: texts.onlyTheOwnersOf,
    hint: texts.administratorsSeeThatIt,
  },
  {
    value: 'record',
    label: common.thoseWhoOwnIts,
    hint: texts.ownersOfTheAccount,
  },
  {
    value: 'everyone',
    label: texts.everyoneInTheWorkspace,
    hint: texts.everyMemberReadsEvery,
  },
];
export const SHOWN_OPTIONS: ChoiceOption<'content' | 'existence'>[] = [
  { value: 'content', label: texts.whatItSays },
  {
    value: 'existence',
    label: texts.onlyThatItExists,
    hint: texts.whenWhichColleagueWhich,
  },
];
/** Whether the owner of a mailbox may do something that the rulebook does not say. */
export const LOCK_OPTIONS = (what: string): ChoiceOption<'free' | 'locked'>[] => [
  { value: 'free', label: texts.may(what) },
  { value: 'locked', label: texts.mayNot(what), hint: texts.whatOwnersChoseBefore },
];
export const OWNER_OPTIONS: ChoiceOption<string>[] = [
  { value: 'mailbox', label: texts.ownedByWhoeverHas },
  { value: 'account', label: texts.ownedByTheAccounts, hint: texts.whereTheAccountHas },
];
export const CLASS_LABELS: Record<string, string> = {
  newsletter: 'newsletters',
  notice: 'notices',
  'auto-reply': texts.automaticReplies,
  bounce: 'bounces',
  calendar: texts.calendarMail,
};

const labelOf = <T extends string>(options: readonly ChoiceOption<T>[], value: T): string =>
  options.find((option) => option.value === value)?.label ?? value;

/** What the rulebook does, one sentence a step, each with the page that changes it. */
export function inForce(rulebook: Rulebook): { to: string; text: string }[] {
  const { keepOut, takeIn, match, create, share } = rulebook;
  const kept = [
    ...(keepOut.internal ? [texts.internalMail] : []),
    ...keepOut.machineMail.map((machineEmail) => CLASS_LABELS[machineEmail] ?? machineEmail),
  ];
  const entries = keepOut.entries.length > 0 ? texts.andDomainsAndAddresses(keepOut.entries.length) : '';
  const created =
    create.people === 'nothing'
      ? texts.noRecordsAreCreated
      : texts.unknownPeopleBecome(
          labelOf(PEOPLE_OPTIONS, create.people),
          create.after === 'emails' ? texts.afterEmailsWithThem(create.emails) : labelOf(AFTER_OPTIONS, create.after),
          create.people === 'contact' ? `, ${labelOf(ACCOUNTS_OPTIONS, create.accounts ? 'yes' : 'no')}` : '',
        );
  return [
    {
      to: '/keep-out',
      text: kept.length + keepOut.entries.length > 0 ? texts.keptOut(kept.join(', '), entries) : texts.nothingIsKeptOut,
    },
    { to: '/take-in', text: texts.takenIn(labelOf(SCOPE_OPTIONS, takeIn.scope)) },
    { to: '/match', text: texts.filedUnderThePeople(labelOf(ACCOUNT_OPTIONS, match.account), labelOf(DEAL_OPTIONS, match.deal)) },
    { to: '/create', text: created },
    {
      to: '/share',
      text: texts.filedMailIsSeen(labelOf(LEVEL_OPTIONS, share.level), share.existenceOnly && share.level !== 'owner'),
    },
  ];
}
