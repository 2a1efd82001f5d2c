import { count, counted } from '../../parts/numbers';

/** The texts of these screens, by the file that shows them. Places in braces are filled by `filled`. */

export const adminLists = {
  rulesThatBehaveUnusually: 'Rules that behave unusually',
  emailsIn7Days: (took: number, usual: number) => `${count(took)} emails in 7 days; usually about ${count(usual)}`,
  recentChanges: 'Recent changes',
} as const;

export const flow = {
  filed: 'filed',
  waiting: 'waiting',
  unfiled: 'unfiled',
  to: (first: string, last: string) => `${first} to ${last}`,
  mailOfWeeks: (weeks: number) => `Mail of ${weeks} weeks`,
  mailOfTheLast: (weeks: number) => `Mail of the last ${weeks} weeks`,
  emailsByWeekAnd: (weeks: number) => `Emails by week and outcome, last ${weeks} weeks`,
} as const;

export const newFilings = {
  filedLastFromYour: 'Filed last, from your mailboxes',
} as const;

export const sampleWorld = {
  theSampleWorldIs: 'The sample world is removed.',
  theSampleWorldIsRemoved: (kept: string) => `The sample world is removed, but for what was changed since: ${kept}.`,
  sampleWorld: 'Sample world',
  seeItWithMail: 'See it with mail first.',
  threeMadeUpCustomers:
    'Three made-up customers, their deals and 23 emails with you. Only you see the mail, and one click removes all of it.',
  loadASampleWorld: 'Load a sample world',
  theSampleWorldIsBeing: 'The sample world is being loaded …',
  theSampleWorldIsLoaded: 'The sample world is loaded.',
  removeItBeforeYou: 'Remove it before you add your own records and mail.',
  removeTheSampleWorld: 'Remove the sample world',
} as const;

export const setUpList = {
  setUp: 'Set-up',
  setUpOfStep: (remaining: number, manySteps: number) => `Set-up: ${remaining} of ${counted(manySteps, 'step')} done`,
  next: (nextTitle: string) => `Next: ${nextTitle}`,
  foldTheList: 'Fold the list',
  showAllSteps: 'Show all steps',
  hideThisList: 'Hide this list',
  done: '(done)',
  sayWhoWeAre: 'Say who we are',
  yourDomainsAndShared: 'Your domains and shared addresses: mail among yourselves is internal, and colleagues never become contacts.',
  yourOwnAddressIs: (ownDomain: string) => `Your own address is at ${ownDomain}, which is not one of your domains.`,
  addYourTeam: 'Add your team',
  allMembersWithMail: 'All members with mail to file, or who read filed mail.',
  importYourRecords: 'Import your records',
  accountsFirstThenContacts: 'Accounts first, then contacts, leads and deals, from CSV or vCard.',
  keepOutWhatDoes: 'Keep out what does not belong in records',
  privateSendersSuppliersJob: 'Private senders, suppliers, job applications. Newsletters, notices and internal mail are kept out already.',
  everyPreconditionIsChecked: 'Every precondition is checked while you watch. You can import a mailbox file instead.',
  tryTheRulesOn: 'Try the rules on past mail',
  aTrialShowsWhat: 'A trial shows what would be filed, created and shared. It changes nothing.',
  putYourRulesLive: 'Put your rules live',
  forAPilotOf: 'For a pilot of some mailboxes first, or for everyone.',
} as const;

export const teamLists = {
  quietDealsNoEmail: 'Quiet deals, no contact for 30 days',
  unansweredCustomers: 'Unanswered customers',
  all: (total: number) => `all ${count(total)}`,
  unansweredSince: '{unanswered} unanswered since {unansweredSince}',
  wroteToYouNot: 'Wrote to you, not answered yet',
} as const;

export const upcomingMeetings = {
  upcomingMeetings: 'Meetings in the next two weeks',
  noTitle: 'Meeting without a title',
} as const;

export const troubledMailboxes = {
  mailboxesInTrouble: 'Mailboxes in trouble',
} as const;

export const homePage = {
  loading: 'Loading',
  home: 'Home',
  yourLastVisit: 'your last visit',
  since: '{came} since {since}',
  emailNotDecidedYet: (undecided: number) => `${counted(undecided, 'email')} not decided yet`,
  mailboxesAreInTrouble: (trouble: number) => `${counted(trouble, 'mailbox is', 'mailboxes are')} in trouble`,
  questionAtTheSorting: (questions: number, isAdmin: boolean) =>
    `${counted(questions, 'question')} at the sorting desk${isAdmin ? ', for everyone' : ' for you'}, all time`,
  contactCreatedFromThis: (newContacts: number) => `${counted(newContacts, 'contact')} created from this mail`,
  accountCreatedFromThis: (newAccounts: number) => `${counted(newAccounts, 'account')} created from this mail`,
  emailsHaveADamaged: (damaged: number) =>
    `${counted(damaged, 'email has', 'emails have')} a damaged source. Import or synchronise them again.`,
  emailCouldOnlyBe: (problems: number) => `${counted(problems, 'email')} could only be read in part, all time`,
  importRunning: (runningImports: number) => `${counted(runningImports, 'import')} running`,
  whatIsInForce: 'What is in force',
  goodMorning: 'Good morning',
  goodAfternoon: 'Good afternoon',
  goodEvening: 'Good evening',
  noMailYet: 'No mail yet',
  mailAppearsHereWhen: 'Mail appears here when mailboxes are connected and colleagues share what is in them.',
  connectItNow: 'Connect it now',
  mailAppearsHereWhenYour:
    'Mail appears here when your mailbox is connected. {connectIt}: it takes two minutes, and you alone see what is in it.',
  welcome: (first: string) => `Welcome, ${first}`,
  theStepsInThe: 'The steps in the order that works best. Each can be changed later.',
} as const;
