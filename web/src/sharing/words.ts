import { counted } from '../parts/numbers';

/** The texts of these screens, by the file that shows them. Places in braces are filled by `filled`. */

export const askAccess = {
  askedTheOwnerSees: 'Asked. The owner sees it under Sharing.',
  youHaveAskedFor: (ownerName: string) => `You have asked ${ownerName} for it.`,
  withdraw: 'Withdraw',
  withAWord: 'with a word …',
  whyYouNeedIt: 'Why you need it',
} as const;

export const dealTeam = {
  dealTeam: 'Deal team',
  colleaguesOnIt: 'Colleagues on it',
  itsOwnerAlone: 'its owner alone',
  change: 'change',
  savedTheySeeAt: 'Saved. They see at once what those on the record see.',
  colleaguesOnThisDeal: 'Colleagues on this deal',
  theySeeTheDeal: 'They see the deal, its account and its people, and the mail that is shared with those on the record.',
} as const;

export const emergencies = {
  emergencyReading: 'Emergency reading',
  anAdministratorReadsA:
    'An administrator reads a member’s mail for some hours, when a second person confirms. The member is notified. Sealed mail stays sealed.',
  askForOne: 'Ask for one …',
  confirmedForHoursFrom: (hours: number) => `Confirmed for ${hours} hours from now.`,
  itIsOver: 'The emergency reading has ended.',
  reads: 'reads',
  asksToRead: 'asks to read',
  readOrAskedTo: 'read or asked to read',
  you: 'you',
  until: (until: string) => `until ${until}`,
  confirmedBy: (confirmedByName: string) => `, confirmed by ${confirmedByName}`,
  theMailOf: '{askedByName} {reads} the mail of {you}{until}{confirmedByName} {askedAt}',
  confirmForHours: (hours: number) => `Confirm for ${hours} hours`,
  refuse: 'Refuse',
  endIt: 'End it',
  askedAnotherAdministratorOr: 'Asked. Another administrator or a manager has to confirm it.',
  readAMembersMail: 'Read a member’s mail in an emergency',
  member: 'Member',
  why: 'Why',
  theMemberAndWhoever: 'The member and whoever confirms read this.',
  forHowManyHours: 'For how many hours (at most 72)',
  nothingOpensBeforeA: 'Nothing opens before a second person confirms. Every email that you open is written down.',
  askForIt: 'Ask for it',
} as const;

export const shareDialog = {
  letSingleColleaguesRead: 'Let single colleagues read it',
  onlyYouReadIt: 'Only you read it (administrators see that it exists)',
  ownersOfItsRecords: 'Owners of its records, and the deal’s team',
  everyoneInTheWorkspace: 'Everyone in the workspace',
  sealItNoOne: 'Seal it: no one else sees that it exists',
  sealedNoOneElse: 'Sealed. No one else sees that it exists.',
  sharedTheyReadIt: 'Shared. They can read it from now on.',
  yourChoiceIsSaved: 'Your choice is saved. It applies from now on.',
  thisConversationLaterEmails: 'This conversation, later emails too',
  thisEmailAlone: 'This email alone',
  everythingOfMineWith: (outsider: string) => `Everything of mine with ${outsider}`,
  everythingOfMineWithForDomain: (domain: string) => `Everything of mine with ${domain}`,
  who: 'Who',
  ofWhat: 'Of what',
  colleagues: 'Colleagues',
  noOneYet: 'no one yet',
  noneYet: 'none yet',
  onlyThatItExists: 'Only that it exists: when, which colleague, which company; no subject, no text, no names',
  laterMailAsWell: 'Later mail as well',
  itLeavesEveryHistory:
    'It leaves every history, count and search of others, administrators included. You find it under My mail, and can unseal it under Sharing.',
  yourChoiceOverridesThe: 'Your choice overrides the rules. You can remove it on the Sharing page.',
  seal: 'Seal',
  saveThisChoice: 'Save this choice',
} as const;

export const sharingPage = {
  sharing: 'Sharing',
  whatYouShareBeyond: 'What you share beyond the rules, what colleagues ask of you, and what they share with you.',
  colleaguesAskYou: 'Colleagues ask you',
  eachSeesThatThere: 'Each sees that there is mail, and not what it says.',
  noOpenRequests: 'No open requests.',
  declinedWasNotified: (askedByName: string) => `Declined. ${askedByName} was notified.`,
  readsItFromNow: (askedByName: string) => `${askedByName} can read it from now on.`,
  asksFor: '{askedByName} asks for',
  shareThisOne: 'Share this one',
  shareIt: 'Share it',
  theConversation: 'The conversation',
  shareAllWith: 'Share all with',
  allWithARecord: 'All with a record …',
  allMailOfYours: (one: string) => `All mail of yours under this ${one}, later mail too.`,
  decline: 'Decline',
  youHaveAsked: 'You have asked',
  whereYouSeeThat: 'Where you see that an email exists, you can ask its owner to let you read it.',
  for: '{ownerName} for {item} {itemAt}',
  withdraw: 'Withdraw',
  yourSharingChoices: 'Your sharing choices',
  theyOverrideTheRules: 'They override the rules. Only you see this list.',
  noneTheRulesDecide: 'None: the rules decide who sees your mail. Change that for an email in its decision panel, with “Share or seal”.',
  removeChoice: 'Remove choice',
  readsItNoMore: (toName: string) => `${toName} can no longer read it.`,
  whatYouSharedWith: 'What you shared with colleagues',
  nothingBeyondTheRules: 'Nothing beyond the rules.',
  endAccess: 'End access',
  whatColleaguesLetYou: 'What colleagues let you read',
  all: (manyList: number) => `All ${manyList}`,
} as const;

export const sight = {
  whatAColleagueSees: 'What a colleague sees',
  askedOfTheDatabase: 'Computed by the database with that colleague’s rights.',
  whatDoes: 'What does',
  chooseAColleague: 'Choose a colleague …',
  seeOf: 'see of',
  readsKnowsOfMore: 'Can read {reads}, sees that {exists} more exist, and sees nothing of {nothing}.',
  emailsThatTheySee: 'Emails that they see',
  noOneOutside: 'no one outside',
  with: (externalDomains: string) => `with ${externalDomains}`,
  readsIt: 'reads it: ',
  theNewestEmails: (manyEmails: number) => `The newest ${counted(manyEmails, 'email', 'emails')}.`,
} as const;

export const whoSees = {
  exists: ', exists',
  sealedOnlyTheUsers: 'Sealed: only the users of its mailboxes see that it exists.',
  seenBy: (level: string) => `Seen by ${level}.`,
  shareOrSeal: 'Share or seal …',
  whoSeesIt: 'Who sees it?',
  readsIt: 'reads it',
  knowsThatItExists: 'knows that it exists',
  allMembersAreListed: 'All members are listed here.',
  otherMembersDoNot: (nobody: number) => `${counted(nobody, 'other member', 'other members')} cannot see that it exists.`,
  yourSharingChoices: 'Your sharing choices',
  yourChoice: (choice: string) => `Your choice: ${choice}.`,
  removeChoice: 'Remove choice',
} as const;

export const useSharing = {
  undoneTheRulesDecide: 'Undone. The rules decide again who sees it.',
  yourRequestIsWithdrawn: 'Your request is withdrawn.',
} as const;

export const shareWords = {
  anEmail: 'an email',
  theConversation: (subject: string) => `the conversation “${subject}”`,
  everythingWithUpTo: (word: string, until: boolean) => `everything with ${word}${until ? ' up to then' : ''}`,
  sealedNoOneElse: (about: string) => `${about}: sealed, no one else learns of it`,
  seenBy: (about: string, level: string) => `${about}: seen by ${level}`,
  allMailOfThe: (one: string, recordName: string) => `all mail of the ${one} ${recordName}`,
  allMailOfA: 'all mail of a record',
  theConversationForNamed: (named: string) => `the conversation ${named}`,
} as const;
