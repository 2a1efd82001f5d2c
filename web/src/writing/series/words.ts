import { counted } from '../../parts/numbers';

/** The texts of these screens, by the file that shows them. Places in braces are filled by `filled`. */

export const seriesPage = {
  title: 'Series',
  purpose: 'Emails and tasks that follow each other until someone answers.',
  find: 'Find a series',
  newItem: 'New series',
  noneYet: 'No series yet',
  howToBegin: 'Keep one here, then start it from the page of a contact or lead.',
  nothingFound: 'Nothing found. Try fewer words.',
  choose: 'Choose a series, or make a new one.',
  noGroup: 'Series',
  all: 'All series',
  steps: (many: number) => counted(many, 'step'),
  open: (many: number) => `with ${counted(many, 'person', 'people')}`,
} as const;

export const seriesEditor = {
  name: 'Name',
  language: 'Language',
  languageHint: 'Such as de or en-GB; empty for any.',
  steps: 'Steps',
  step: (number: number) => `Step ${number}`,
  email: 'Email',
  task: 'Task',
  what: 'What',
  kindOf: (number: number) => `What step ${number} is`,
  waitOf: (number: number) => `Working days before step ${number}`,
  days: (many: number) => `working ${many === 1 ? 'day' : 'days'} later`,
  atTheBeginning: 'working days, then',
  templateOf: (number: number) => `Template of step ${number}`,
  chooseATemplate: 'Choose a template',
  goneTemplate: 'Its template is gone',
  taskOf: (number: number) => `Task of step ${number}`,
  taskHint: 'What is to be done, such as a call',
  removeStep: (number: number) => `Remove step ${number}`,
  addEmail: 'Add an email',
  addTask: 'Add a task',
  conversation: 'A template without a subject goes on in the same conversation.',
  save: 'Save series',
  copy: 'Keep a copy',
  saved: (name: string) => `${name} is saved. Where it goes on, it goes on as it began.`,
  remove: 'Remove series',
  removed: (name: string) => `${name} is removed. Where it goes on, it goes on.`,
  restored: (name: string) => `${name} is back.`,
  undo: 'Undo',
  ofSomeoneElse: (owner: string) => `${owner} keeps this series. You can start it, or keep a copy of your own.`,
} as const;

export const runList = {
  people: 'People in this series',
  noPeople: 'No one yet. Start it from the page of a contact or lead.',
  ofAll: 'Series that need you',
  step: (at: number, of: number) => `Step ${at} of ${of}`,
  openEmail: 'Open email',
  leaveOut: 'Leave out',
  done: 'Done',
  stop: 'Stop',
  stopFor: (who: string) => `Stop: ${who}`,
  doneFor: (who: string) => `Done: ${who}`,
  leaveOutFor: (who: string) => `Leave out: ${who}`,
  stopped: (who: string) => `Nothing more is sent to ${who}.`,
  next: 'next {when}',
  showAnswer: 'Show the email',
} as const;

export const runStates = {
  waiting: 'Waits',
  'to look at': 'Email to look at',
  'to do': 'Task',
  sending: 'Being sent',
  ended: 'Came to its end',
  stopped: 'Stopped',
} as const;

export const stopReasons = {
  answered: 'there was an answer',
  bounced: 'an email came back',
  refused: 'an email was refused',
  meeting: 'a meeting was made',
  'deal closed': 'the deal is closed',
  'kept out': 'their mail is kept out',
  erased: 'they were erased',
  'other series': 'another series was started',
  unsubscribed: 'they unsubscribed',
  'by hand': 'you stopped it',
  left: 'its member left',
  'no text': 'it had no text',
} as const;

export const startSeries = {
  start: 'Start a series',
  title: (who: string) => `Start a series with ${who}`,
  series: 'Series',
  chooseASeries: 'Choose a series',
  none: 'There is no series yet.',
  keepOne: 'Keep one first',
  asks: 'Show me each email before it is sent',
  deal: 'For the deal',
  chooseADeal: 'Choose a deal',
  noDeal: 'No deal',
  dealHint: 'Emails are filed under it, and the series stops when it is closed.',
  stopsAt: 'It stops when they or anyone of their account answers, when an email comes back, and when a meeting is made.',
  startIt: 'Start',
  started: (name: string, who: string) => `${name} is on its way to ${who}.`,
  startInstead: 'Stop that series and start this one',
} as const;

export const recordSeries = { title: 'Series' } as const;
