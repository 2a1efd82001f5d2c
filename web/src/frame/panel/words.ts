import { countedEmails } from '../../parts/numbers';

/** The texts of what opens over a page, which is not part of the first load. Places in braces are filled by `filled`. */

export const commandList = {
  findPeopleCompaniesDeals: 'Find people, companies, deals, emails and pages',
  peopleCompaniesDealsWords: 'People, companies, deals, words of an email …',
  nothingFoundTryFewer: 'Nothing found. Try fewer or other words.',
  pages: 'Pages',
  inAll: (emailTotal: number, isMore: boolean) => `${countedEmails(emailTotal, isMore)} in all`,
  search: 'Search',
  allThatIsFound: (text: string) => `All that is found for “${text}”`,
} as const;

export const decisionPanel = {
  closeTheDecision: 'Close the decision',
  keptOutItsText: 'Kept out: its text is not stored',
  youMayNotRead: 'You may not read it',
  itsOwner: 'its owner',
  youSeeThatIt: (isAdmin: boolean, owner: string) =>
    `You see that it exists${isAdmin ? ' and how it was decided' : ''}. Its text is only for ${owner} to share.`,
  askToReadIt: 'Ask to read it',
  theServerThatReceived: 'The server that received it found its sender forged. Do not trust the name it carries.',
  itWasForwardedNothing: 'It was forwarded. Nothing proves who wrote it, so it is filed by its sender.',
  with: 'With {externalDomains}',
  whereItIsFiled: 'Where it is filed',
  filedUnder: 'Filed under',
  noRecord: 'No record.',
  why: 'Why',
  keepOut: (keepable: string) => `Keep out ${keepable} …`,
  createARuleAt: 'Create a rule at',
  createARule: 'Create a rule …',
  aRuleAtAbout: (title: string, domain: string) => `A rule at ${title} about ${domain}.`,
  thisEmailHasNot: 'This email has not been decided yet.',
  theFiveSteps: 'The five steps',
  by: (ruleText: string) => `By “${ruleText}”`,
  andMore: (remaining: number) => `and ${remaining} more`,
  showAs: 'Show as',
  text: 'Text',
  asSent: 'As sent',
  showLess: 'Show less',
  showTheWholeText: 'Show the whole text',
} as const;

export const emailFacts = {
  writtenBy: 'Written by?',
  sender: 'Sender',
  replyTo: 'Reply to',
  cc: 'Cc',
  bcc: 'Bcc',
  theReceivingServerConfirmed: 'The receiving server confirmed its sender.',
  theReceivingServerFound: 'The receiving server found its sender forged.',
  noCheckOfIts: 'No check of its sender is known.',
  facts: 'Facts',
  inTheMailboxesOf: 'In the mailboxes of {sightings}.',
  writtenByAPerson: 'Written by a person',
  machineMail: (mailClass: string) => `Machine mail: ${mailClass}`,
  by: (header: string, classProof: string) => `, by ${header}${classProof}`,
  rulebookVersion: (rulebookVersion: number) => `Rulebook version ${rulebookVersion}.`,
  messageId: 'Message-ID {messageId}',
  inYourMailProgram: 'Open in your mail program',
  sourceEml: 'Source (.eml)',
  theWholeConversation: 'The whole conversation',
  allWith: (domain: string) => `All with ${domain}`,
} as const;

export const keyList = {
  ctrlK: 'Ctrl K',
  findPeopleCompaniesDeals: 'Find people, companies, deals, emails and pages',
  moveInAList: 'Move in a list',
  openTheDecisionOf: 'Open the decision of an email, or a record',
  decisionOfTheSelected: 'Decision of the selected email',
  fileTheSelectedEmails: 'File the selected emails under a record',
  removeTheSelectedEmails: 'Remove the selected emails from a record',
  createRecordsFromThe: 'Create records from the selected emails',
  sealTheSelectedEmails: 'Seal the selected emails: only you see them',
  selectInAList: 'Select in a list; Shift and arrows for a range',
  atTheSortingDesk: 'At the sorting desk: choose this answer; 0 none, L leave unfiled, K skip, A always',
  alt: 'Alt ← →',
  moveTheSelectedDeal: 'Move the selected deal to another stage',
  keepOutTheDomain: 'Keep out the domain of the selected email’s sender',
  openTheRecordOf: 'Open the record of the selected email',
  altT: 'Alt T',
  goToTheNotices: 'Go to the notices, with Undo',
  esc: 'Esc',
  closeWhatIsOpen: 'Close what is open',
  helpOnThisPage: 'Help on this page',
  keys: 'Keys',
} as const;

export const whyInOneSentence = {
  notDecidedYet: 'Not decided yet',
  because: (what: string, reason: string) => `${what} because ${reason}`,
  waitsFileItHere: 'Waits: file it here?',
  waitsARuleAsks: (domain: string) => `Waits: a rule asks a person${domain}.`,
  waitsUnderWhich: (about: string) => `Waits: under which ${about}?`,
  waitsIsAnotherAddress: (who: string, likeName: string) => `Waits: is ${who} another address of ${likeName}?`,
  waitsIsToBecome: (who: string) => `Waits: is ${who} to become a record?`,
} as const;
