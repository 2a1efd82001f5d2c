import { counted } from './numbers';

/** The texts of these screens, by the file that shows them. Places in braces are filled by `filled`. */

/** Texts that many screens have in common. */
export const common = {
  noSubject: '(no subject)',
  account: 'Account',
  addToTheDraft: 'Add to the draft',
  address: 'Address',
  amount: 'Amount',
  cancel: 'Cancel',
  choose: 'Choose …',
  code: 'Code',
  connectAMailbox: 'Connect a mailbox',
  create: 'Create',
  decision: 'Decision',
  direction: 'Direction',
  emails: 'Emails',
  find: 'Find',
  folders: 'Folders',
  from: 'From',
  fulvet: 'Fulvet',
  help: 'Help',
  howFarBack: 'How far back',
  import: 'Import',
  keepOut: 'Keep out',
  looking: 'Looking …',
  mailbox: 'Mailbox',
  mailboxes: 'Mailboxes',
  members: 'Members',
  name: 'Name',
  noneYet: 'None yet.',
  none: 'None.',
  opening: 'Opening',
  owner: 'Owner',
  password: 'Password',
  loading: 'Loading',
  reading: 'Reading',
  records: 'Records',
  removeAFilterTo: 'Remove a filter to see more.',
  remove: 'Remove',
  save: 'Save',
  stage: 'Stage',
  teams: 'Teams',
  theEmail: 'The email',
  title: 'Title',
  undo: 'Undo',
  until: 'Until',
  whoSeesIt: 'Who sees it',
  words: 'Words',
  emailsSmall: 'emails',
  noOne: 'no one',
  pastMail: 'past mail',
  thisPerson: 'this person',
  thoseWhoOwnIts: 'those who own its records',
} as const;

export const bars = {
  showAsChart: 'Show as chart',
  showAsTable: 'Show as table',
} as const;

export const choice = {
  change: (label: string, currentLabel: string) => `${label}: ${currentLabel}. Change`,
} as const;

export const confirmUndo = {
  undoing: 'Undoing …',
} as const;

export const copyText = {
  copied: 'Copied',
} as const;

export const datePicker = {
  anyDay: 'any day',
  clearDate: 'Clear date',
} as const;

export const dayBars = {
  emailInDaysAt: (total: number, manyPerDay: number, most: number) =>
    `${counted(total, 'email')} in ${manyPerDay} days, at most ${most} a day`,
} as const;

export const faults = {
  thisPageCouldNot: 'This page could not be shown',
  fulvetWasUpdatedSince: 'Fulvet was updated since you opened it, or the connection to the server broke. What you saved is safe.',
  somethingInThisPage:
    'Something in this page failed. What you saved is safe. If it happens again after loading it, send your administrator the text below.',
  loadThePageAgain: 'Load the page again',
} as const;

export const filterBar = {
  filters: (used: string, open: boolean) => `Filters${used} ${open ? '▴' : '▾'}`,
} as const;

export const moment = {
  min: (ago: number) => `${ago} min`,
  yesterday: 'Yesterday',
} as const;

export const notices = {
  thatCouldNotBe: 'That could not be done.',
  dismiss: 'Dismiss',
} as const;

export const outcomeMark = {
  notDecidedYet: 'not decided yet',
} as const;

export const recordChips = {
  addARecord: 'Add a record',
  remove: (name: string) => `Remove ${name}`,
} as const;

export const recordPicker = {
  noRecordHasThis: 'No record has this name.',
  accountDealLeadOr: 'Account, deal, lead or contact …',
} as const;

export const searchList = {
  found: 'Found',
} as const;

export const ticks = {
  chosen: (manyChosen: number) => `${manyChosen} chosen`,
} as const;

export const toggle = {
  on: 'On',
  off: 'Off',
} as const;

export const basics = {
  somethingWentWrong: 'Something went wrong.',
} as const;

export const people = {
  accounts: 'Accounts',
  contact: 'Contact',
  contacts: 'Contacts',
  lead: 'Lead',
  leads: 'Leads',
  deal: 'Deal',
  deals: 'Deals',
  record: 'Record',
  otherRecords: 'Other records',
} as const;

export const seenBy = {
  theOwnersOfIts: 'the owners of its mailboxes only',
  everyoneInTheWorkspace: 'everyone in the workspace',
  exists: ', exists',
  theTeam: (replace: string) => `the team ${replace}`,
  thatItExistsOnly: (who: string) => `${who}, that it exists only`,
} as const;

export const spanText = {
  to: (first: string, last: string) => `${first} to ${last}`,
  fromTo: (start: string, start2: string, end: string, end2: string) => `${start}, ${start2} to ${end}${end2}`,
} as const;

export const useUndo = {
  undone: 'Undone.',
  undoneExcept: (manyKept: string, stays: string, manyKept2: number) => `Undone, except ${manyKept}: ${stays}${manyKept2 > 3 ? ' …' : ''}.`,
} as const;
