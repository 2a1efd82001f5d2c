import { counted } from '../parts/numbers';

/** The texts of these screens, by the file that shows them. Places in braces are filled by `filled`. */

export const mailKinds = {
  person: 'written by people',
  event: 'events of calendars',
  calendar: 'calendar invitations',
  newsletter: 'newsletters',
  notice: 'notices',
  'auto-reply': 'automatic replies',
  bounce: 'bounces',
} as const;

export const allMailFilters = {
  filterAllMail: 'Filter all mail',
  outcome: 'Outcome',
  kind: 'Kind',
  anyKind: 'Any kind',
  anyOutcome: 'Any outcome',
  eitherDirection: 'Either direction',
  everyMailbox: 'Every mailbox',
  addressOfAPerson: 'Address of a person',
  domain: 'Domain',
  oneConversation: 'one conversation',
  sourceDamaged: 'source damaged',
  readInPart: 'read in part',
  filedByARule: 'filed by a rule, corrected by hand',
  filedByOneRule: 'filed by one rule',
  aStepDecidedBy: 'a step decided by one rule',
  clearFilters: 'Clear filters',
  answered: 'Answered',
  answeredOrNot: 'Answered or not',
  sentNotAnswered: 'sent, not answered',
  sentAndAnswered: 'sent and answered',
  opened: 'Opened',
  openedOrNot: 'Opened or not',
  measuredAndOpened: 'measured and opened',
  measuredNotOpened: 'measured, not opened',
} as const;

export const allMailPage = {
  allMail: 'All mail',
  everyEmailThatYou: 'Every email that you may see, with its outcome.',
  counting: 'Counting …',
  fetchingEmails: 'Fetching emails',
  noEmailFits: 'No email fits',
  noMailYet: 'No mail yet',
  importAMailboxFile: 'Import a mailbox file under Mailboxes, and every email is listed here with its outcome.',
  withTheChosenEmails: 'With the chosen emails',
  emailChosen: (manyEmails: number) => `${counted(manyEmails, 'email')} chosen`,
  fileUnderF: 'File under … F',
  removeFromRecordT: 'Remove from record … T',
  createRecordsN: 'Create records … N',
  createOneForEach: 'Create one for each …',
  chooseTheFirst: (most: number) => `Choose all, up to ${most}`,
  sealS: 'Seal … S',
  chooseNone: 'Choose none',
  with: 'With',
  subject: 'Subject',
  filedUnder: 'Filed under',
  date: 'Date',
} as const;

export const attachments = {
  attachments: 'Attachments',
} as const;

export const bodyText = {
  quotedLine: (lines: number) => `Quoted, ${lines} ${lines === 1 ? 'line' : 'lines'}`,
  signature: 'Signature',
  foldQuotedText: (isQuote: boolean) => `Fold ${isQuote ? 'quoted text' : 'signature'}`,
} as const;

export const directionMark = {
  directionNotKnownYet: 'direction not known yet',
} as const;

export const emailCard = {
  keptOut: (mailClass: string) => `kept out, ${mailClass}`,
} as const;

export const emailLine = {
  chooseIt: 'Choose it',
  privateIn: (mailboxes: string) => `private, in ${mailboxes}`,
  couldOnlyBeRead: 'Could only be read in part',
  event: 'Event of a calendar',
  attachments: (attachmentCount: number) => `${attachmentCount} attachments`,
} as const;

export const filings = {
  createdByThisEmail: (one: string, itemName: string, created: boolean) =>
    `${one}: ${itemName}${created ? ' (created by this email)' : ''}`,
  new: 'new',
  principal: ', the principal record',
} as const;

export const htmlBody = {
  picturesNotLoaded: (blocked: number) =>
    `${blocked === 1 ? 'One picture was' : `${blocked} pictures were`} not loaded: its sender would learn that you read this.`,
  loadPictures: 'Load pictures',
  theEmailAsHtml: 'The email as HTML',
} as const;

export const measure = {
  openings: 'Openings',
  notKnown: 'Not known whether it was opened.',
  probablyOpened: (times: number) => (times === 1 ? 'Probably opened on {when}.' : `Probably opened ${times} times, last on {when}.`),
  linkNotKnown: (kind: 'link' | 'document', name: string) => `${name}: not known whether ${kind === 'link' ? 'followed' : 'opened'}.`,
  linkProbablyFollowed: (kind: 'link' | 'document', name: string, times: number) =>
    `${name}: probably ${kind === 'link' ? 'followed' : 'opened'}${times === 1 ? '' : ` ${times} times, last`} on {when}.`,
  doubt: 'Programs can look like persons, and many emails are read without a trace.',
  others: ({ prefetch, scanner, own }: { prefetch: number; scanner: number; own: number }) =>
    prefetch + scanner + own === 0
      ? ''
      : `Not counted: ${[
          prefetch > 0 && `${prefetch} by programs that load pictures`,
          scanner > 0 && `${scanner} by programs that check emails`,
          own > 0 && `${own} by colleagues`,
        ]
          .filter(Boolean)
          .join(', ')}.`,
} as const;

export const meetings = {
  meeting: 'Meeting',
  cancelled: 'Cancelled:',
  accepted: 'Accepted',
  tentative: 'May come',
  declined: 'Declined',
  named: (answer: string, names: string, more: number) => `${answer}: ${names}${more > 0 ? ` and ${more} more` : ''}`,
  downloadTheCalendarFile: 'Download the calendar file',
} as const;

export const searchPage = {
  search: 'Search',
  recordsByNameAddress: 'Records by name, address or code; emails by their words.',
  wordsToSearchFor: 'Words to search for',
  peopleCompaniesDealsWords: 'People, companies, deals, words of an email',
  searchEverything: 'Search everything',
  typeANameAn: 'Type a name, an address, a deal’s code or words of an email. “Quoted words” must be together; -word excludes a word.',
  searching: 'Searching',
  showAllOfThem: 'Show all of them',
  anEmail: 'an email',
  decisionOn: (subject: string) => `Decision on ${subject}`,
  nothingFound: 'Nothing found',
  tryFewerOrOther: 'Try fewer or other words.',
} as const;

export const withWhom = {
  noSender: '(no sender)',
  noRecipient: '(no recipient)',
} as const;
