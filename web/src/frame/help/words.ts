/** The texts of these screens, by the file that shows them. Places in braces are filled by `filled`. */

export const helpPanel = {
  theHelpCouldNot: 'The help could not be loaded. Try again in a moment.',
  searchTheHelp: 'Search the help',
  keys: 'Keys',
  loadingTheHelp: 'Loading the help',
  otherPartsOfThe: 'Other parts of the help',
  nothingInTheHelp: 'Nothing in the help has these words.',
} as const;
