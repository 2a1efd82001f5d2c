import { counted } from '../parts/numbers';

/** The texts of these screens, by the file that shows them. Places in braces are filled by `filled`. */

export const deskPage = {
  sortingDesk: 'Sorting desk',
  emailThatWaitsFor: 'Email that waits for a person. Your answer files the whole conversation.',
  questionLeftAboutEmail: (remaining: number, emails: number) =>
    `${counted(remaining, 'question')} left, about ${counted(emails, 'email')}`,
  whose: 'Whose',
  ofAllMailboxes: 'of all mailboxes',
  ofMyMailboxes: 'of my mailboxes',
  aDay: (arriving: string) => `${arriving} a day`,
  loadingQuestions: 'Loading questions',
  nothingWaits: 'Nothing waits',
  questionsAppearHereWhen:
    'Questions appear here when the rules cannot tell a deal or an account for sure, or when a rule asks. What is answered here is never asked again.',
  whatComesNext: 'What comes next',
  then: 'Then',
  andMore: (remaining: number) => `and ${remaining} more`,
} as const;

export const deskQuestion = {
  ruleName: (who: string, record: string) => `${who} under ${record}`,
  theQuestion: 'The question',
  passedItToYou: (passedBy: string) => `${passedBy} passed it to you.`,
  fits: (score: number) => `fits ${score} %`,
  noDeal: 'No deal',
  noAccount: 'No account',
  none: 'None',
  anotherRecord: 'Another record …',
  createARecord: 'Create a record …',
  createRecords: 'Create records …',
  createNoRecord: 'Create no record',
  leaveItUnchanged: 'Leave it unchanged',
  addARuleThat: 'Add a rule that answers the same',
  a: 'A',
  toTheDraft: 'to the draft',
  skip: 'Skip',
  alwaysFromTheSorting: 'Always, from the sorting desk.',
  addedToTheDraft: (who: string, candidateName: string) => `Added to the draft: mail with ${who} goes under ${candidateName}.`,
  theRuleCouldNot: 'The rule could not be put into the draft.',
  passedTo: (toName: string) => `Passed to ${toName}.`,
  passTo: 'Pass to',
  passToSomeone: 'Pass to …',
} as const;

export const emailBeside = {
  to: '{participants} to {participants2} · {at}',
  youMayNotRead: (sightings: string) => `You may not read it. Ask who uses ${sightings} decides about it.`,
  filedUnder: 'Filed under {filings}',
} as const;

export const fileDialog = {
  moveFromTo: (what: string, fromName: string) => `Move ${what} from ${fromName} to …`,
  fileUnder: (what: string) => `File ${what} under …`,
  theRulesOfThe: 'The rules of the Share step say who sees filed mail. Rules never undo what you file.',
} as const;

export const likelyList = {
  findARecord: 'Find a record',
  nameAddressCode: 'Name, address, code …',
  noRecordHasThis: 'No record has this name.',
  noRecordIsLikely: 'No record is likely. Type a name.',
} as const;

export const reachChoice = {
  thisEmail: 'This email',
  theseEmails: 'These emails',
  laterEmailsAreDecided: 'Later emails are decided by the rules.',
  thisAndWhatFollows: 'This and what follows',
  theseAndWhatFollows: 'These and what follows',
  earlierMailStaysAs: 'Earlier mail stays as it is.',
  theConversationSoFar: 'The conversation so far',
  theConversationsSoFar: 'The conversations so far',
  theWholeConversation: 'The whole conversation',
  theWholeConversations: 'The whole conversations',
  whatFollowsToo: 'What follows, too.',
  for: 'For',
} as const;

export const repairBar = {
  putItRight: 'Correct the filing',
  fileUnder: 'File under …',
  removeFromRecord: 'Remove from record …',
  createRecords: 'Create records …',
  seal: 'Seal …',
  moveItFrom: 'Move it from',
  moveFrom: 'Move from …',
  decidedByHand: 'Decided by hand',
  you: 'you',
  thatCouldNotBe: 'That could not be undone.',
  principalRecord: 'Principal record',
  choosePrincipal: 'Principal record …',
  principalIs: (name: string) => `Principal record: ${name}`,
} as const;

export const sealDialog = {
  seal: (it: string) => `Seal ${it}`,
  itLeavesEveryHistory:
    'It leaves every history and count. No one but those who use its mailboxes learns that it exists, administrators included. You can unseal it in its decision panel.',
  thisEmail: 'this email',
  it: 'it',
  sealForThisEmail: (thisEmail: string) => `Seal ${thisEmail}`,
} as const;

export const startDialog = {
  thisEmail: 'this email',
  createRecordsFrom: (thisEmail: string) => `Create records from ${thisEmail}`,
  readingWhoTakesPart: 'Reading who takes part',
  everyExternalParticipantHas: 'Every external participant has a record already.',
  whatBecomes: (address: string) => `What ${address} becomes`,
  contact: 'Contact',
  lead: 'Lead',
  nothing: 'Nothing',
  nameOf: (address: string) => `Name of ${address}`,
  titleOf: (address: string) => `Title of ${address}`,
  accountsOf: (address: string) => `accounts of ${address}`,
  companyOf: (address: string) => `Company of ${address}`,
  company: 'Company',
  inTheRecords: 'In the records: {known}',
  aDealBeginsWith: 'A deal begins with it',
  itsNameEmptyFor: 'Its name; empty for none',
  withThePeopleAbove: (accountName: string) => `With ${accountName}, the people above on it, and the whole conversation under it.`,
  withThePeopleAboveAnd: 'With the people above, and the whole conversation.',
  aDeal: 'a deal',
  create: (parts: string) => `Create ${parts}`,
  createRecords: 'Create records',
  shareTheDomainSay: (accounts: string) => `${accounts} share the domain: say which`,
  isKeptOut: 'is kept out',
  namesAFunctionNot: 'a role address, not a person',
  machinesWriteFromThere: 'an automatic sender',
  nameNotKnown: 'name not known',
  nameGuessedSure: (nameConfidence: number) => `name guessed, ${nameConfidence} % sure`,
  anotherRecordBegins: 'Another record begins',
  none: 'None',
  itsNameIs: 'Its name',
  withAllOfThem: (prefix: string) =>
    `With the people above. Answers whose subject names its number, such as ${prefix}-12, are filed there.`,
} as const;

export const eachDialog = {
  oneForEachOf: (emails: string) => `Create one record for each, from ${emails}`,
  one: 'One',
  forEach: 'for each external',
  whatBegins: 'What begins',
  forWhat: 'One for each',
  company: 'company',
  person: 'person',
  readingWhoTakesPart: 'Reading who takes part',
  noExternalPerson: 'No external person takes part in these emails.',
  stage: 'Stage',
  state: 'State',
  owner: 'Owner',
  noOne: 'No owner',
  addedToEachName: 'Added to each name',
  suchAs: 'Such as: autumn offer',
  withAccounts: 'Create accounts for their companies, too',
  withPeopleAndAccounts: 'Create contacts for people in no record, and accounts for their companies',
  proposed: (entries: number, alike: number, left: number) =>
    [
      counted(entries, 'proposal'),
      ...(alike > 0 ? [`first ${alike} that may be there already and are left out unless you choose`] : []),
      ...(left > 0 ? [`${left} more people take part: choose fewer emails`] : []),
    ].join('; '),
  allNew: 'Create all',
  noneOfThem: 'Create none',
  proposals: 'Proposals',
  nameOf: (address: string) => `Name of the record for ${address}`,
  more: (people: number) => `${people} more`,
  whatBecomes: (name: string) => `What is done for ${name}`,
  create: 'Create',
  fileUnder: (name: string) => `File under ${name}`,
  nothing: 'Nothing',
  save: (created: string, filed: number) => {
    const parts = [...(created === '' ? [] : [`create ${created}`]), ...(filed > 0 ? [`file under ${filed}`] : [])];
    const text = parts.length > 0 ? parts.join(' and ') : 'create';
    return text.charAt(0).toUpperCase() + text.slice(1);
  },
} as const;

export const takeOffDialog = {
  takeOff: (it: string) => `Remove ${it} from …`,
  all: 'All',
  everyRecordLeaveIt: 'Every record: leave it unfiled',
  unfiledMailIsSeen: 'Unfiled mail is seen by the members who use its mailboxes. Nothing changes in any mailbox.',
} as const;

export const deskWords = {
  whichOfTheseDeals: (manyCandidates: number) => `Which of these ${manyCandidates} deals?`,
  thisDomain: 'this domain',
  whichAccountOf: (domain: string) => `Which account of ${domain}?`,
  anExternalPersonSent: 'An external person sent it to the filing address of this record. File it there?',
  noRecordHasThe: (domain: string) => `No record has the filing address ${domain}. Where does it belong?`,
  aRuleAsks: (domain: string) => `A rule asks: ${domain}`,
  aRuleAsksA: 'A rule asks a person where it belongs.',
  thisAddress: 'this address',
  isAnotherAddressOf: (domain: string, candidates: string) => `Is ${domain} another address of ${candidates}?`,
  isToBecomeA: (domain: string) => `Is ${domain} to become a record?`,
  oneEmailAsks: 'One email asks',
  emailAsk: (count: number) => `${counted(count, 'email')} ask`,
  theAnswerAppliesTo: (oneEmail: string) => `${oneEmail}; the answer applies to all mail with this address.`,
  oneEmailWhatFollows: 'One email; what follows in its conversation goes the same way.',
  oneAnswerForIn: (emails: string, conversations: number) => `One answer for ${emails} in ${counted(conversations, 'conversation')}.`,
  oneAnswerForThese: (emails: string) => `One answer for these ${emails} of one conversation.`,
} as const;

export const queries = {
  stays: (record: string, because: string) => `${record} stays: ${because}.`,
  undoneEmailsAreAs: (changed: number, kept: string) => `Undone; ${counted(changed, 'email is', 'emails are')} as before. ${kept}`,
} as const;

export const useOffer = {
  anAdministratorFindsThe: (because: string) => `${because} An administrator finds the rule for it under Tuning.`,
  aRuleCanDo: (because: string) => `${because} A rule can do that from now on.`,
  itIsInThe: 'It is in the draft; nothing has taken effect.',
} as const;
