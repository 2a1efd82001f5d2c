import { count, counted } from '../parts/numbers';

/** The texts of these screens, by the file that shows them. Places in braces are filled by `filled`. */

export const domainUse = {
  unfiledOrWaiting: 'Unfiled or waiting',
  keptOutAndMachine: 'Kept out and machine mail',
  everything: 'Everything',
  domainsByVolume: 'Domains by volume',
  whoItIsFrom: 'Who it is from and to',
  show: 'Show',
  findADomain: 'Find a domain',
  theFirstOf: (manyRows: number, total: number) => `the first ${manyRows} of ${count(total)}`,
  in90Days: '{manyRows} in 90 days',
  nothingHere: 'Nothing here',
  noDomainFitsWhat: 'No domain fits what you chose.',
  domain: 'domain',
  received: 'received',
  sent: 'sent',
  automatic: 'automatic',
  outcome: 'outcome',
  byTheRule: 'by the rule',
  last: 'last',
  ruleThatFits: 'rule that fits',
} as const;

export const ruleAccuracy = {
  howOftenEachRule: 'How often each rule was right',
  nothingFiledYet: 'Nothing filed yet',
  rulesAreListedHere: 'Rules are listed here once they have filed email.',
  emailsOf90Days:
    'Emails of 90 days, by the rule that filed them. An email counts as corrected when someone removed it from the record, or moved it.',
  rule: 'rule',
  filesUnder: 'files under',
  corrected: 'corrected',
  right: 'right',
} as const;

export const suggestions = {
  suggestions: 'Suggestions',
  suggestionsFromPastMail: 'Suggestions from past mail',
  computedFromTheMail:
    'Computed from the mail of 90 days and the records; each was tried on the mail that it is about. Nothing takes effect before it is put live.',
  tryingOutSuggestions: 'Trying out suggestions',
  nothingToSuggestNow: 'Nothing to suggest now.',
  nowBelongsTo: (about: string, accountName: string) => `${about} now belongs to ${accountName}.`,
  itIsInThe: 'It is in the draft. Nothing has taken effect yet.',
  rule: (rule: string) => `Rule: ${rule}`,
  ofTheNewestEmail: (emails: number) => `of the ${counted(emails, 'newest email')} it is about`,
  editFirst: 'Edit first …',
  addTheFormTo: 'Add the form to the draft',
  addTheDomainTo: 'Add the domain to the account',
  wouldChangeNothingNow: 'would change nothing now',
  newlyFiled: (filed: number) => `${count(filed)} newly filed`,
  keptOut: (keptOut: number) => `${count(keptOut)} kept out`,
  noLongerFiled: (remaining: number) => `${count(remaining)} no longer filed`,
  emailWouldChange: (changed: number, parts: string) => `${counted(changed, 'email')} would change${parts}`,
} as const;

export const tuningPage = {
  tuning: 'Tuning',
  whatPastMailSuggests: 'What past mail suggests to change, how often each rule was right, and which domains write.',
} as const;

export const ruleThatFits = {
  letThrough: 'Let through',
  mostOfItsMail: 'Most of its mail is kept out. A rule can let it through.',
  mostOfItsMailIs: 'Most of its mail is automatic.',
  file: 'File',
  mostOfItsMailWaits: 'Most of its mail waits for an answer. A rule can file it under a record.',
  mostOfItsMailIsUnfiled: 'Most of its mail is unfiled, although it belongs to an account.',
  createContacts: 'Create contacts',
  yourColleaguesWriteTo: 'Your colleagues write to people there who are in no record.',
  itsMailIsUnfiled: 'Its mail is unfiled, and no one has written there.',
  keepsThisDomainOut: 'Keeps this domain out of the records.',
} as const;
