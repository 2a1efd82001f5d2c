import { count, counted } from '../parts/numbers';

/** The texts of these screens, by the file that shows them. Places in braces are filled by `filled`. */

export const allowAgainDialog = {
  isAllowedAgainEmail: (entry: string, changed: number) => `${entry} is allowed again. ${counted(changed, 'email')} changed.`,
  allowAgain: 'Allow again',
  isNoLongerKept: '{entry} is no longer kept out, for new and past mail.',
  countedOverTheNewest: (tried: number) => `Counted over the newest ${count(tried)}:`,
  withWouldNoLonger:
    '{concerned} with {p}. {tried}{wouldReturn} would no longer be kept out; {wouldBeFiled} would be filed under more records.',
  countingTheAffectedEmails: 'Counting the affected emails …',
  decidingAgain: 'Deciding again …',
  allowAgainForEntry: (entry: string) => `Allow ${entry} again`,
} as const;

export const decideAgain = {
  decidingPastMailAgain: 'Deciding past mail again',
  ofDecidedNothingIs: (done: number, total: number) => `${count(done)} of ${count(total)} decided; nothing is changed yet`,
  puttingChangeInPlace: (total: number) => `Putting ${counted(total, 'change')} in place as one step`,
  aChangeAppliesTo: 'A change applies to new mail. Past mail stays as it is until you decide it again.',
  decidePastMailAgain: 'Decide past mail again …',
  decidePastMailAgainTitle: 'Decide past mail again',
  byTheRulesIn: 'By the rules in force. It applies as one step, which you can undo.',
  mailOf: 'Mail of',
  allMailboxes: 'all mailboxes',
  decideAgainAndTake: (pastMail: string, withoutMade: boolean) => `Decide ${pastMail} again${withoutMade ? ', and take records back' : ''}`,
  notNow: 'Not now',
} as const;

export const explained = {
  explainedFurther: 'Explained further',
  whyIsItNot: 'Why is it not filed under',
  whyNotUnder: 'Why not under …?',
  whatWouldChangeIt: 'What would change it',
  itIsFiledUnder: 'It is filed under',
  whyNotUnderLabel: 'Why not under',
  workingItOut: 'Working it out …',
  itWouldBeIf: 'It would be, if',
  noSingleChangeOf: 'No single change of a rule or record would put it there.',
  whatYouCouldChange: 'What you could change',
  removingAnySingleRule: 'Removing any single rule would change nothing.',
  if: 'If {change}: {then}',
  rulesThatAlmostApplied: 'Rules that almost applied',
  noRuleMissedIt: 'No rule missed it by one part of its condition.',
} as const;

export const keepOutDialog = {
  isKeptOutEmail: (domain: string, changed: number) => `${domain} is kept out. ${counted(changed, 'email')} changed.`,
  whatToKeepOut: 'What to keep out',
  everyoneAtAndIts: 'Everyone at {domain} and its sub-domains',
  only: 'Only {address}',
  ifTheEmailHas: 'If the email has other external people',
  ignoreThisParticipantThe: 'Ignore this participant. The email stays for the others.',
  keepTheWholeEmail: 'Keep the whole email out.',
  noteForLaterReaders: 'Note for later readers',
  ourLawyers: 'Our lawyers',
  countedOverTheNewest: (tried: number) => `Counted over the newest ${count(tried)}:`,
  ofThemNowFiled: (filedNow: number) => `, ${filedNow} of them now filed`,
  recordWouldHaveNo: (records: number) => `; ${counted(records, 'record')} would have no email left`,
  withWouldBeKept: '{concerned} with {p}. {tried}{wouldLeave} would be kept out{filedNow}{records}.',
  itIsAlreadyOn: 'It is already on the list.',
  countingTheAffectedEmails: 'Counting the affected emails …',
  keepOut: (value: string) => `Keep out ${value}`,
  decidingAgain: 'Deciding again …',
} as const;

export const ownKeepOuts = {
  isKeptOutOf: (added: string) => `${added} is kept out of your mail. Nothing changes in your mailbox.`,
  isAllowedAgainPast: (item: string) => `${item} is allowed again. Past mail is being decided again.`,
  keptOutOfMy: 'Kept out of my mail',
  letIn: 'let in',
  youKeepOut: 'You keep out {list}',
} as const;

export const pastRuns = {
  pastMailDecidedAgain: 'Past mail decided again',
  pastMailWasDecided: 'Past mail {run} was decided again, {run2} {runBy}',
  undo: 'Undo …',
  since: (since: string) => `since ${since}`,
  ofMailboxes: (manyMailboxes: number) => `of ${counted(manyMailboxes, 'mailbox', 'mailboxes')}`,
  emailAreAsBefore: (restored: number, removed: number) =>
    `${counted(restored, 'email')} are as before; ${counted(removed, 'record')} that the run created are gone`,
  recordThatItRemoved: (back: number) => `${counted(back, 'record')} that it removed are restored`,
  notRemovedBecauseSomething: (kept: string) => `Not removed, because something depends on them: ${kept}`,
  notRestoredBecauseOther: (away: string) => `Not restored, because other records now have their addresses: ${away}`,
  undoThisRunOver: 'Undo this run over past mail?',
  recordThatItRemovedAre: (takenBack: number) => ` ${counted(takenBack, 'record')} that it removed are restored.`,
  getBackTheirOutcome:
    '{changed} return to their earlier outcome, filings, decision and visibility. Records that the run created are removed, unless something else depends on them; those are named.{takenBack}',
  putTheRulebookThat: 'Put the rulebook that stood before in force again, too',
  undoing: 'Undoing …',
  undoAndRestoreEmail: (changed: number) => `Undo, and restore ${counted(changed, 'email')}`,
} as const;

export const spanChoice = {
  allPastMail: 'all past mail',
  theLast30Days: 'the last 30 days',
  theLast90Days: 'the last 90 days',
  theLastYear: 'the last year',
  removeTheRecordsThat: 'Remove the records that these rules would not create',
  contactsLeadsAndAccounts:
    'Contacts, leads and accounts that mail created and no one has changed since. A trial “as if they were not there” names them.',
} as const;

export const usePastRuns = {
  recordRemoved: (takenBack: number) => `, ${counted(takenBack, 'record')} removed`,
  emailChanged: (changed: number, takenBack: string) => `${counted(changed, 'email')} changed${takenBack}`,
  pastMailWasDecided: (run: string) => `Past mail was decided again: ${run}.`,
  itWasNotCancelled: 'It was not cancelled.',
} as const;
