/** The texts of these screens, by the file that shows them. */

export const ownKindEditor = {
  title: 'Kind of records',
  newKind: 'A new kind of records',
  about:
    'Beside contacts, leads, accounts and deals you can keep records of your own kinds, such as cases or projects. Mail is filed under them by number, by conversation and, where you say so, by people and addresses.',
  switchOnCases: 'Switch on cases',
  whatCasesAre: 'For complaints and requests that are handled separately. Everything about them can be changed afterwards.',
  saved: 'Saved.',
  singular: 'Name of one',
  singularHint: 'Such as Project.',
  plural: 'Name of several',
  pluralHint: 'Such as Projects.',
  prefix: 'Numbers begin with',
  prefixHint: 'Such as PROJ: the first record is PROJ-1.',
  icon: 'Icon',
  states: 'States',
  statesHint: 'In order. A new record begins in the first. Records follow a state that is renamed.',
  nameOfState: (at: number) => `Name of state ${at}`,
  theState: 'the state',
  addState: 'Add a state',
  hasPeople: 'Contacts and leads are linked to it',
  hasAccount: 'An account is linked to it',
  hasAddresses: 'It has addresses of its own, and mail with one of them is filed there',
  seenByTeams: 'Who sees these records, beside administrators and their owners',
  everyTeam: 'Everyone who sees other records',
  save: 'Save the kind',
  define: 'Define the kind',
  remove: (singular: string) => `Remove the kind ${singular}`,
} as const;

export const ownIcons = {
  case: 'Lifebuoy',
  tool: 'Wrench',
  box: 'Package',
  book: 'Book',
  flag: 'Flag',
  star: 'Star',
  map: 'Pin on a map',
  truck: 'Truck',
  heart: 'Heart',
  shield: 'Shield',
} as const;
