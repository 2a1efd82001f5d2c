import { count } from '../parts/numbers';

/** The texts of these screens, by the file that shows them. Places in braces are filled by `filled`. */

export const column = {
  helpOnThisPage: 'Help on this page (?)',
  pages: 'Pages',
  openRequest: (open: number) => `${open} open ${open === 1 ? 'request' : 'requests'}`,
  yourAccount: (role: string) => `${role} · your account`,
  signOut: 'Sign out',
} as const;

export const frame = {
  fulvet: (title: string) => `${title} · Fulvet`,
  skipToTheContent: 'Skip to the content',
  closeTheMenu: 'Close the menu',
  openTheMenu: 'Open the menu',
} as const;

export const stepColumn = {
  toRead: (mailboxBacklog: number) => `${count(mailboxBacklog)} to read`,
  in30Days: (came: number) => `${count(came)} in 30 days`,
  inTrouble: (mailboxTrouble: number) => `${count(mailboxTrouble)} in trouble`,
  notDecided: (undecided: number) => `${count(undecided)} not decided`,
  keptOut: (keptOut: number) => `${count(keptOut)} kept out`,
  takeIn: 'Take in',
  leftUnfiled: (leftToOwner: number) => `${count(leftToOwner)} left unfiled`,
  takenIn: (afterTakeIn: number) => `${count(afterTakeIn)} taken in`,
  match: 'Match',
  unfiled: (unfiled: number) => `${count(unfiled)} unfiled`,
  created: (created: number) => `${count(created)} created`,
  share: 'Share',
  seenByAll: (shared: number) => `${count(shared)} seen by all`,
  withNewMail: (histories: number) => `${count(histories)} with new mail`,
  myMail: 'My mail',
  fromYourMailboxes: 'from your mailboxes',
  sortingDesk: 'Sorting desk',
  noQuestions: 'no questions',
  forYou: (questions: number) => `${count(questions)} for you`,
  steps: 'Steps',
} as const;

export const underway = {
  rulesUnderWay: 'Rules under way',
  draft: 'Draft',
  lastEditedBy: (draftBy: string) => `, last edited by ${draftBy}`,
  openTheDraft: 'Open the draft',
  notInForce: '{draft}: {changes}, not in force{draftBy}. {openThe}',
  pilot: 'Pilot',
  openThePilot: 'Open the pilot',
  ofVersionIn: '{pilot} of version {version} in {manyMailboxes}. {openThe}',
} as const;
