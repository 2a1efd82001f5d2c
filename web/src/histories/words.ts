import { counted } from '../parts/numbers';

/** The texts of these screens, by the file that shows them. Places in braces are filled by `filled`. */

export const aside = {
  foldWhatStandsBeside: 'Hide the side panel',
  atAGlanceLast: 'At a glance: last contact, colleagues in touch, facts',
  besideIt: 'Side panel',
} as const;

export const history = {
  history: 'History',
  emailInConversation: (emails: number, conversations: number, events: number) =>
    [
      ...(emails > 0 ? [`${counted(emails, 'email')} in ${counted(conversations, 'conversation')}`] : []),
      ...(events > 0 ? [counted(events, 'event')] : []),
    ].join(', '),
  youSeeOnlyThat: 'You see only that some of these exist.',
  askTheirOwnersFor: 'Ask their owners for all of it',
  fetchingTheHistory: 'Fetching the history',
  noEmailFits: 'No email fits',
  noMailHereYet: 'No mail here yet',
  emailsAppearHereWhen: 'Emails appear here when one of these addresses takes part in mail that comes in.',
  fetchingMore: 'Fetching more',
  aMailbox: 'a mailbox',
  privateIn: (mailboxes: string) => `Private, in ${mailboxes}`,
  cancelledEvent: 'Cancelled:',
  calendarInvitation: (who: string) => `${who}, calendar invitation`,
  anEmail: 'An email',
  mark: (from: string, subject: string) => `${from}: ${subject}`,
  oneOfUs: 'One of us',
  someoneOutside: 'Someone outside',
  to: (recipients: string) => `to ${recipients}`,
  seenByTheOwners: 'Seen by the owners of the mailboxes only',
  private: 'private',
  openTheDecision: 'Open the decision',
  readTheRest: 'Read the rest',
  anEmailInThat: (mailboxes: string) => `An email in ${mailboxes} that its owner has not shared.`,
  askToReadIt: 'Ask to read it',
  andMore: (remaining: number) => ` and ${remaining} more`,
} as const;

export const dropEmails = {
  dropThem: (name: string) => `Drop emails (.eml) to file them under ${name}`,
  emailFiles: 'Email files',
  addFiles: 'Add emails from files',
  orDropThem: 'or drop .eml files on the history.',
  reading: 'Reading the files …',
  notRead: 'The files could not be read.',
  noEmailInThem: 'There is no email in these files. Save the email as .eml in your mail program.',
} as const;

export const mailBeside = {
  yourMailNotHere: 'Your mail with them, not filed here',
  onlyYou: 'Only you see this list.',
  fileHere: 'File here',
  fileIt: (subject: string) => `File here: ${subject}`,
} as const;

export const historyFilters = {
  filterTheHistory: 'Filter the history',
  wordsInIt: 'Words in it',
  sentAndReceived: 'Sent and received',
  sent: 'Sent',
  received: 'Received',
  colleague: 'Colleague',
  anyOfUs: 'Any of us',
  under: 'Under',
  peopleAndDeals: 'People and deals',
  withFiles: 'with files',
  clear: 'Clear',
} as const;

export const insightsPanel = {
  atAGlance: 'At a glance',
  last: 'Last',
  wrote: (lastBy: string) => `${lastBy} wrote`,
  metThem: 'a meeting in the calendar',
  wroteToUs: (lastBy: string) => `${lastBy} wrote to us`,
  amongUs: 'among us',
  loggedBy: (name: string) => `logged by ${name}`,
  answers: 'Answers',
  weTake: (ours: string) => `we take ${ours}`,
  they: (theirs: string) => `they ${theirs}`,
  min: (max: number) => `${max} min`,
  days: (value: number) => `${value} days`,
  nextMeeting: 'Next meeting',
  notAnswered: 'Not answered',
  oneConversationIsUnanswered: 'One conversation is unanswered',
  areNotAnswered: (manyList: number) => `${manyList} are not answered`,
  aPrivateEmail: 'a private email',
  colleaguesInTouch: 'Colleagues in touch',
  sentReceivedLast: (sent: number, received: number, lastAt: string) => `${sent} sent, ${received} received; last ${lastAt}`,
  openDeals: 'Open deals',
} as const;

export const monthBars = {
  sent: 'sent',
  received: 'received',
  emailsSentAndReceived: 'Emails sent and received by month',
} as const;

export const myMailPage = {
  myMail: 'My mail',
  theEmailOfYour: 'The email of your own mailboxes: where it is filed, and who sees it.',
  whatWasKeptOut: 'what was kept out, too',
  fetchingYourMail: 'Fetching your mail',
  noMailOfYours: 'No mail of yours yet',
  connectYourMailboxUnder: 'Connect your mailbox under Mailboxes. What you send and receive is listed here with its outcome.',
  earlierMail: 'Earlier mail',
  allMyMail: '← All my mail',
  myEmails: 'My emails',
  amongOurselves: 'among ourselves',
  noSender: '(no sender)',
  to: (outside: string) => `to ${outside}`,
  lookingUp: 'Looking up',
  keptOutItsText: 'Kept out: its text is not stored',
} as const;

export const peopleOfEmail = {
  externalPeopleInThis: 'External people in this email',
  lookingUp: 'Looking up',
  thereAreNoExternal: 'There are no external people in this email, or its text is no longer kept.',
  unknown: 'unknown',
  nextMeeting: 'Next meeting {meetingAt}: {summary}',
  beforeThis: 'Before this: {lastContactAt}, {colleague}',
  theFirstEmailWith: 'The first email with them that you may know of.',
  them: 'them',
  add: (them: string) => `Add ${them}`,
  keepOutOfMy: 'Keep out of my mail',
  keepOutForAll: 'Keep out for all …',
} as const;

export const recordPage = {
  whereThisIs: 'You are here',
  rename: 'rename',
  theNameIsNot: 'The name is not known yet.',
  theNameIsGuessed: (nameConfidence: number) => `The name is guessed from the address, ${nameConfidence} % sure.`,
  filingAddress: 'Filing address',
  copyTheFilingAddress: 'Copy the filing address',
  whatATeammateSends: 'What a teammate sends there in Bcc, or forwards, is filed here.',
  of: 'of {originAt}',
  anEmail: 'an email{originAt}',
  startedByHand: ', started by hand.',
  by: (ruleText: string) => `, by “${ruleText}”.`,
  accountBefore: 'account before',
  otherRecord: 'other record',
} as const;

export const logged = {
  logContact: 'Log contact',
  whatWasIt: 'What was it',
  when: 'When',
  day: 'Day',
  time: 'Time',
  whoReached: 'Direction',
  text: 'What was said',
  about: 'About',
  onlyMe: 'Only I see it',
  othersSee: 'Everyone who sees one of these records reads it.',
  save: 'Save',
  stillToCome: 'Choose a time that is past.',
  saved: 'It is in the history.',
  change: 'Change',
  removeEntry: 'Remove',
  removed: 'The entry is removed.',
  undo: 'Undo',
  loggedBy: 'Logged by {name}, {when}',
  onlyYou: 'Only you see it',
  changedTimes: (times: number) => (times === 1 ? 'changed once' : `changed ${times} times`),
  before: 'Before',
} as const;

export const activityKinds = {
  call: 'Call',
  meeting: 'Meeting',
  letter: 'Letter',
  message: 'Message elsewhere',
  note: 'Note',
} as const;

export const activityDirections = {
  both: 'We talked with each other',
  sent: 'We reached them',
  received: 'They reached us',
} as const;
