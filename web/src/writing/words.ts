import { counted } from '../parts/numbers';

/** The texts of these screens, by the file that shows them. Places in braces are filled by `filled`. */

export const composer = {
  agreeAndSend: 'Agree and send',
  newEmail: 'New email',
  writeAnEmail: 'Write an email',
  from: 'From',
  to: 'To',
  cc: 'Cc',
  bcc: 'Bcc',
  addCcAndBcc: 'Cc, Bcc',
  subject: 'Subject',
  text: 'Text',
  sentInSeconds: 'Your email is sent in 10 seconds.',
  sentAt: (when: string) => `Your email will be sent ${when}.`,
  takeBack: 'Take back',
  takenBack: 'Your email is a draft again.',
  discarded: 'The draft is discarded.',
  openingTheDraft: 'Opening the draft',
} as const;

export const sendBar = {
  sendEmail: 'Send email',
  sendLater: 'Send later …',
  sendAt: 'Send at this time',
  day: 'Day',
  time: 'Time',
  discardDraft: 'Discard draft',
  saving: 'Saving …',
  saved: (time: string) => `Draft saved ${time}`,
  notSaved: 'Not saved',
  nextWorkingMorning: 'Next working morning',
  chooseALaterTime: 'Choose a time that is still to come.',
  notChosen: 'not chosen',
  byWhoseClock: 'By whose clock',
  myClock: 'Your time',
  theirClock: (clock: string) => `Their time (${clock})`,
  asTheirEmailSays: 'By the clock of {name} in their email of {when}',
} as const;

export const tray = {
  openEmails: 'Emails that you write',
  foldTheTray: 'Fold',
  close: (subject: string) => `Close ${subject}; the draft is kept`,
} as const;

export const editor = {
  bold: 'Bold',
  italic: 'Italic',
  list: 'List',
  numberedList: 'Numbered list',
  formatting: 'Formatting',
  insertPicture: 'Insert a picture',
  showQuotedText: 'Show quoted text',
  hideQuotedText: 'Hide quoted text',
  sendQuotedText: 'Send quoted text',
  insertField: 'Insert a field',
  showSignature: 'Show signature',
  hideSignature: 'Hide signature',
  sendSignature: 'Send signature',
} as const;

export const recipientsField = {
  addAPerson: (label: string) => `${label}: add a person`,
  remove: (address: string) => `Remove ${address}`,
  nameOrAddress: 'Name or address',
  noSuchAddress: 'Type a whole address, such as ida@harbour.example.',
} as const;

export const filing = {
  howItWillBeFiled: 'How it will be filed',
  asTheRulesSay: 'As the rules say',
  underChosenRecords: 'Under records that you choose',
  doNotFile: 'Do not file it',
  beforeYouSend: 'Before you send',
  reminder: 'Remind me if no one answers',
  noReminder: 'No reminder',
  afterDays: (days: number) => (days % 7 === 0 ? `After ${counted(days / 7, 'week')}` : `After ${counted(days, 'day')}`),
  openings: 'Openings',
  countOpenings: 'Count whether it is opened',
  recipientIsTold: 'A notice below the text says so to its recipient.',
  files: 'Files',
  attachFiles: 'Attach files',
  dropFilesHere: 'or drop them on the email',
  removeFile: (name: string) => `Remove ${name}`,
  attaching: (name: string) => `Attaching ${name} …`,
} as const;

export const outgoingPage = {
  outgoing: 'Outgoing',
  emailsThatYouWrite: 'Emails that you write or have sent from here. Only you see this list.',
  noEmailYet: 'No email yet',
  writeOneFromARecord: 'Write from a record, answer an email in its decision panel, or start here.',
  state: 'State',
  subject: 'Subject',
  when: 'When',
  openDraft: 'Open draft',
  takeBack: 'Take back',
  itWasSent: 'It was sent',
  itWasNotSent: 'It was not sent',
  removeFromList: 'Remove from list',
  showEmail: 'Show email',
  openings: (times: number) => (times === 0 ? 'Not known whether it was opened' : `Probably opened ${counted(times, 'time')}`),
  emailsNeedYou: (many: number) => `${counted(many, 'email')} ${many === 1 ? 'needs' : 'need'} you`,
} as const;

export const sendingStates = {
  draft: 'Draft',
  due: 'Waits for its time',
  'handing over': 'Being sent',
  sent: 'Sent',
  refused: 'Not sent',
  bounced: 'Came back',
  unclear: 'Unclear whether it was sent',
} as const;

export const writeButtons = {
  answer: 'Answer',
  answerThisEmail: 'Answer this email',
  answerAll: 'Answer all',
  forward: 'Forward',
  writeEmail: 'Write email',
} as const;

export const sendingAddresses = {
  addressesYouSendFrom: 'Addresses you send from',
  connectAMailboxFirst: 'None yet. Connect your mailbox to send emails from Fulvet.',
  nameAndSignature: 'Name and signature',
  close: 'Close',
  noSignature: (name: string) => `${name}, no signature`,
  withSignature: (name: string) => `${name}, with a signature`,
  notProven: 'Alias, not proven yet. Fulvet sends a code to it; enter the code here.',
  nameAsSent: 'Name that recipients see',
  signature: 'Signature',
  fieldName: 'Your name',
  fieldEmail: 'Your address',
  saved: (address: string) => `Saved for ${address}.`,
  sendACode: 'Send a code',
  sendAnotherCode: 'Send another code',
  codeFor: (address: string) => `Code for ${address}`,
  codeWasSent: 'A code was sent {when}. It counts for half an hour.',
  code: 'Code',
  confirm: 'Confirm',
  proven: (address: string) => `You can send emails from ${address} now.`,
} as const;

export const reminders = {
  noOneAnswered: 'No one answered you yet',
  endReminder: 'End reminder',
} as const;

export const scopes = { own: 'Only you', team: 'A team', all: 'Everyone' } as const;

export const scopeFields = { whoFindsIt: 'Who finds it', team: 'Team', chooseATeam: 'Choose a team' } as const;
