import { count, counted } from '../parts/numbers';

/** The texts of these screens, by the file that shows them. Places in braces are filled by `filled`. */

export const addressListEntry = {
  noteOn: (entry: string) => `Note on ${entry}`,
  addANote: 'add a note',

  countItsSubDomains: 'Count its sub-domains, too',
  countTheDomainAlone: 'Count the domain alone',
  thisDomainAlone: 'this domain alone',
  withItsSubDomains: 'with its sub-domains',
  noEnd: 'no end',
} as const;

export const addressListsPage = {
  addressLists: 'Address lists',
  namedListsOfDomains: 'Named lists of domains and addresses that rules refer to. An entry counts for new mail as soon as it is added.',
  lists: 'Lists',
  forEveryRulebook: 'For every rulebook',
  noListOfYour: 'No list of your own yet',
  createOneOnThe: 'Create one on the left: for example, law firms and press that are often in copy.',
  emailIn30Days: (took: number) => `, ${counted(took, 'email')} in 30 days`,
  newList: 'New list',
  nameOfANew: 'Name of a new list',
  createTheList: 'Create the list',
  isOffTheList: (entry: string) => `${entry} was removed from the list.`,
  theListWasDeleted: (listName: string) => `The list “${listName}” was deleted.`,
  entriesOf: (listName: string) => `Entries of ${listName}`,
  usedBy: (usedBy: string) => `used by ${usedBy}`,
  usedByNoRule: 'used by no rule yet',
  csv: 'CSV',
  removeTheList: 'Remove the list',
  findAnEntry: 'Find an entry',
  anywhere: '@ anywhere',
  coveredByAlready: (coveredBy: string) => `· covered by ${coveredBy} already`,
  removeFromTheList: (entry: string) => `Remove ${entry} from the list`,
  theFirstOfFind: (manyEntries: number, total: number) =>
    `The first ${count(manyEntries)} of ${count(total)}; find others by a part of their name.`,
  entriesAddedTo: (added: number, listName: string) => `${counted(added, 'entry', 'entries')} added to “${listName}”.`,
  domainsAndAddressesTo: 'Domains and addresses to add',
  billingHarbourmaster: 'billing, harbourmaster@',
  pressExampleClerkClerk:
    'press.example, “Clerk” <clerk@law.example>, https://www.gazette.example/about\none a line, separated by commas, or a CSV',
  noteOnThem: 'Note on them',
  noEnd: 'no end',
  addToTheList: 'Add to the list',
  thereAlready: (known: number) => `, ${count(known)} there already`,
  pieceCouldNotBe: (manyUnread: number) => `; ${counted(manyUnread, 'part')} could not be read and stayed in the field`,
  added: '{added} added{known}{manyUnread}.',
} as const;

export const draftBar = {
  theDraft: 'The draft',
  draftChangeNotIn: (manyDifferences: number) => `Draft: ${counted(manyDifferences, 'change')}, not in force`,
  lastEditedBy: (draftBy: string) => `last edited by ${draftBy}`,
  runATrialOn: 'Run a trial on past mail',
  putLive: 'Put live …',
  discard: 'Discard …',
  andMore: (remaining: number) => `and ${remaining} more`,
  theDraftWasDiscarded: 'The draft was discarded.',
  discardTheDraft: 'Discard the draft?',
  changeWouldBeLost: (manyDifferences: number) => `${counted(manyDifferences, 'change')} would be lost. What is in force stays as it is.`,
  keepDraft: 'Keep draft',
  discardDraft: 'Discard draft',
} as const;

export const keepOutPage = {
  readingTheRulebook: 'Reading the rulebook',
  saysWhichEmailNever: 'Says which email never reaches the records: private, internal and automatic mail.',
  lastKeptOut: 'Last kept out',
  internalMail: 'Internal mail',
  isKeptOut: 'is kept out',
  isLeftToIts: 'is left to its owners',
  internalMailIs: 'Internal mail {internalMail}.',
  machineMailThatIs: 'Machine mail that is kept out:',
  keptOutDomainsAnd: 'Kept-out domains and addresses',
  domainsAndAddressesKept: (manyEntries: number) => `${counted(manyEntries, 'domain or address', 'domains and addresses')} kept out`,
  findAnEntry: 'Find an entry',
  domainOrAddressTo: 'Domain or address to keep out',
  keepOut: 'Keep out …',
  domainOrAddress: 'domain or address',
  anEntryAppliesAt: 'An entry applies at once, to new and past mail, after you have seen its effect. The rules below change by the draft.',
  noDomainIsKept: 'No domain is kept out yet',
  addOneAboveOr: 'Add one above, or from the decision of any email: you see how many emails it affects before it takes effect.',
  exactlyAt: 'exactly at ',
  at: 'at ',
  ignoreThatParticipant: 'ignore that participant',
  keepTheWholeEmail: 'keep the whole email out',
  whenAParticipantIs: 'When a participant is {kind} {exactlyAt}{entry}, {ignoreThat}.',
  emailIn30Days: (entryId: number) => `${counted(entryId, 'email')} in 30 days`,
  allowAgain: (entry: string) => `Allow again … (${entry})`,
  allowAgainMore: 'Allow again …',
  noEntryFits: (filter: string) => `No entry fits “${filter}”.`,
  undoneEmailsChanged: (changed: number) => `Undone. ${count(changed)} emails changed.`,
  stepsThatCanBe: 'Steps that can be undone',
  doneLately: 'Recent changes',
} as const;

export const pilotPanel = {
  thePilot: 'The pilot',
  pilotVersionIsIn: (version: number, manyMailboxes: number) =>
    `Pilot: version ${version} is in force for ${counted(manyMailboxes, 'mailbox', 'mailboxes')}`,
  putLiveForEveryone: 'Put live for everyone …',
  endThePilot: 'End the pilot …',
  anotherVersionWasPut:
    'Another version was put in force for everyone since. End the pilot, and make its changes again over what is in force.',
  itHasNotDecided: 'It has not decided any email yet.',
  seenByEveryone: 'seen by everyone',
  recordsCreated: 'records created',
  thePilotBesideOther: 'The pilot beside other mail',
  pilot: 'Pilot',
  otherMailOfThat: '{pilot}, other mail of that time',
  thePilotHasEnded: 'The pilot has ended. New mail is decided by the live rulebook.',
  thePilotsRulesAre: 'The pilot’s rules are in force for everyone.',
  endThePilotTitle: 'End the pilot?',
  putThePilotsRules: 'Put the pilot’s rules live for everyone?',
  decideTheMailOf: (days: number) =>
    `Decide the mail of its mailboxes of the last ${counted(days, 'day')} again, by what is in force for everyone`,
  decideEveryonesMailOf: (days: number) => `Decide everyone’s mail of the last ${counted(days, 'day')} again, too`,
  noteForTheVersion: 'Note for the version history',
  endThePilot3: 'End the pilot',
  putLiveForEveryoneTitle: 'Put live for everyone',
  andDecideAgain: (what: string) => `, and decide ${what} again`,
  itsMailStaysAs: '; its mail stays as decided',
  forNewMail: ', for new mail',
  leaveItRunning: 'Leave it running',
} as const;

export const policyPage = {
  takeIn: 'Take in',
  match: 'Match',
  share: 'Share',
  saysWhichOfThe: 'Says which of the remaining email is filed at all, and which is left to its owner.',
  saysHowEmailFinds: 'Says how email finds its people, accounts and deals.',
  saysWhoBecomesA: 'Says who becomes a record when someone unknown writes.',
  saysWhoInThe: 'Says who in the team sees an email once it is filed.',
  lastTakenIn: 'Last taken in',
  lastWaitingForA: 'Last waiting for a person',
  lastLeftWithoutA: 'Last left without a record',
  lastFiled: 'Last filed',
  readingTheRulebook: 'Reading the rulebook',
} as const;

export const policySentences = {
  days: (days: number) => `${days} days`,
  whatComesIn: 'What comes in',
  ofTheMailThat: 'Of the mail that is not kept out, {whatComes} comes in.',
  mailThatIsNot: 'Mail that is not taken in stays unfiled. Only its owner sees it.',
  whetherOwnersMayTake: 'Whether owners may take in less',
  takeInLessOf: 'take in less of its mail',
  theOwnerOfA: 'The owner of a mailbox {whetherOwners}.',
  everyEmailThatIs: 'Every email that is taken in is filed under the contacts and leads who take part.',
  itIsFiledUnder: 'It is filed under {account}. Where a domain belongs to several accounts and no participant is known, the email waits.',
  deal: 'Deal',
  scoreThatTheBest: 'Score that the best deal must reach',
  howFarItMust: 'How far it must be ahead of the next',
  aScoreOfAt: ': a score of at least {scoreThat}, and {howFar} ahead of the next. Else it waits',
  itIsFiledUnderDeal: 'It is filed under {deal}{scoreThat}.',
  howLongBeforeA: 'How long before a deal was opened its emails may have been sent',
  emailsUpToBefore: 'Emails up to {howLong} before a deal was opened may be about it.',
  whatUnknownPeopleBecome: 'What unknown people become',
  anUnknownExternalPerson: 'An unknown external person becomes {whatUnknown}',
  when: 'When',
  howManyEmails: 'How many emails',
  emails: (value: number) => `${value} emails`,
  emailsForEmails: (emails: number) => `${emails} emails`,
  fromEmailsWithUp: 'From emails with up to how many external people records are created',
  noRecordsAreCreated:
    'No records are created from an email with more than {fromEmails} external people, such as an invitation sent round. If someone writes from a new address under the name of a known person, Fulvet asks first.',
  neverFromMachineMail:
    'Never from machine mail, never for colleagues or role addresses such as info@, and never an account for a public mail provider.',
  whoSeesFiledMail: 'Who sees filed mail',
  whatTheySee: 'What they see',
  whoSee: ', who see {whatThey}',
  anEmailThatIs: 'An email that is filed is seen by {whoSees}{whatThey}.',
  whetherOwnersMayKeep: 'Whether owners may keep mail private',
  keepItsMailPrivate: 'keep its mail private',
  anUnfiledEmailIs:
    'An unfiled email is seen by its owner only. Administrators see that it exists and how it was decided, but not its text.',
} as const;

export const putLive = {
  forMailboxes: (manyMailboxes: number) => `for ${counted(manyMailboxes, 'mailbox', 'mailboxes')}`,
  forEveryone: 'for everyone',
  versionIsInForce: (version: number, whose: string, past: boolean) =>
    `Version ${version} is in force ${whose}${past ? ', and past mail is being decided again' : ', for new mail'}.`,
  startThePilotFor: (manyMailboxes: number) => `Start the pilot for ${counted(manyMailboxes, 'mailbox', 'mailboxes')}`,
  putLiveForEveryone: 'Put live for everyone',
  decideAgain: (pastMail: string) => `decide ${pastMail} again`,
  andTakeRecordsBack: (again: string) => `, ${again}, and take records back`,
  and: (again: string) => `, and ${again}`,
  forNewMail: ', for new mail',
  putTheDraftLive: 'Put the draft live',
  appliesTo: 'Applies to',
  everyone: 'Everyone',
  aPilotRunsAlready: '(a pilot runs already)',
  firstAPilotThe: 'First a pilot: the mail of some mailboxes{aPilot}',
  mailThatIsAlso: 'Mail that is also in other mailboxes is decided by the live rulebook.',
  whichMail: 'Which mail',
  newMailFromNow: 'New mail from now on; past mail stays as decided',
  pastMailToo: 'Past mail, too',
  mailboxesOfThePilot: 'Mailboxes of the pilot',
  pastMailOf: 'Past mail of',
  chooseAtLeastOne: 'choose at least one',
  allMailboxes: 'all mailboxes',
  noteForTheVersion: 'Note for the version history',
  thisDraftHasNot: 'This draft has not been tried out on past mail yet.',
  ofEmailWouldChange: (emails: number, changed: number) => `of ${counted(emails, 'email')}, ${count(changed)} would change`,
  emailWouldNewlyBe: (newlySeen: number) => `; ${counted(newlySeen, 'email')} would newly be seen by colleagues`,
  triedOut: 'Tried out: {emails}{newlySeen}.',
} as const;

export const versionLink = {
  rulebookVersion: (version: number) => `Rulebook version ${version}`,
} as const;

export const versionsPage = {
  versionsOfTheRulebook: 'Versions of the rulebook',
  everyRulebookThatWas: 'Every rulebook that was in force: what it changed, and who put it live.',
  readingTheVersions: 'Reading the versions',
  version: (version: number) => `Version ${version}`,
  theFirstSetUp: 'the first set-up',
  pilotForMailboxes: (manyPilotMailboxes: number) => ` · pilot for ${counted(manyPilotMailboxes, 'mailbox', 'mailboxes')}`,
  inForce: 'in force',
  less: 'Less',
  more: 'More …',
  andMore: (remaining: number) => `and ${remaining} more`,
  versionIsInThe: (version: number) => `Version ${version} is in the draft; nothing has taken effect.`,
  comparedWith: 'Compared with',
  whatStoodBeforeIt: 'the version before it',
  versionForVersion: (version: number) => `version ${version}`,
  asAFile: 'As a file',
  takeItIntoThe: 'Copy it to the draft',
  nothingStoodBeforeIt: 'There is no version before it.',
  theySayTheSame: 'The two versions are the same.',
  wasRead: (fileName: string) => `${fileName} was read.`,
  isNotJsonChoose: (fileName: string) => `${fileName} is not JSON. Choose a file that “As a file” or “fulvet rulebook show” gave.`,
  takeAFileInto: 'Load a file into the draft …',
} as const;

export const whoWeArePage = {
  loadingTheRulebook: 'Loading the rulebook',
  whoWeAre: 'Who we are',
  whichDomainsAndAddresses: 'Which domains and addresses are ours. Everyone else is external.',
  ourDomains: 'Our domains',
  everyoneWithAnAddress:
    'Everyone with an address there is a colleague, and so is everyone under a sub-domain. Colleagues never become contacts.',
  ourAddressesAtOther: 'Our addresses at other domains',
  forExampleAShared:
    'For example a shared address at a mail provider. Addresses of members and connected mailboxes are ours without being listed.',
  addressesOfFormsOn: 'Addresses of forms on our sites',
  anEmailFromThem:
    'An email from them counts as received from the person in its Reply-To field, where the receiving server did not reject the sender.',
  tagsInAddresses: 'Tags in addresses',
  idaOrders: 'ida+orders@…',
  ida: 'ida@…',
  areTheSamePerson: 'are the same person',
  areTwoPeople: 'are two people',
  and: '{idaOrders} and {ida} {tagsIn}.',
  publicMailProviders: 'Public mail providers',
  theirDomainsNeverStand: 'Their domains never identify an account. They are kept in the list {publicMail}, which you can add to.',
  addADomain: 'Add a domain',
  aDomain: 'a domain',
  addAnAddress: 'Add an address',
  anAddress: 'an address',
  remove: (value: string) => `Remove ${value}`,
  isNotSuchAs: (unfit: string, isValue: string, example: string) => `“${unfit}” is not ${isValue} such as ${example}. Nothing was added.`,
} as const;

export const useKeepDraft = {
  itIsInThe: (said: string) => `${said} It is in the draft; nothing has taken effect.`,
} as const;

export const ownStrategies = {
  itIsFiledUnder: 'It is filed under {kinds} {how}.',
  howAreFound: (many: string) => `How ${many} are found`,
} as const;
