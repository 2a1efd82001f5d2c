import { counted } from '../../parts/numbers';

/** The texts of the calendars of a mailbox, by the file that shows them. */

export const calendarList = {
  calendars: 'Calendars',
  whatComesIn:
    'Events with external people come in like email: the same rules decide where they are filed and who sees them. Private events, and those among colleagues, stay out.',
  whatLists:
    'In a list of tasks, your open tasks are kept, too: what you change, end or remove there changes here, and the other way round. New ones are private.',
  noneYet: 'No calendar is read yet.',
  keepTasks: (name: string) => `Keep my tasks in the list ${name}`,
  listOfTasks: 'list of tasks',
  tasks: (tasks: number) => counted(tasks, 'task'),
  tasksAreKept: (name: string) => `Your tasks are kept in ${name} from now on.`,
  tasksAreNotKept: (name: string) => `Your tasks are no longer kept in ${name}. Both stay as they are.`,
  follow: (name: string) => `Read the calendar ${name}`,
  events: (events: number) => counted(events, 'event'),
  readAt: 'read {at}',
  beingRead: 'being read',
  readNow: 'Read now',
  remove: 'Remove',
  readNowNamed: (name: string) => `Read ${name} now`,
  removeNamed: (name: string) => `Remove ${name}`,
  isRead: (name: string) => `${name} is read from now on.`,
  isNotRead: (name: string) => `${name} is no longer read. Its events stay.`,
  isRemoved: (name: string) => `${name} is removed. Its events stay.`,
  since: '{title}, since {since}. {remedy}',
  theServerSaid: (said: string) => `The server said: ${said}`,
  connect: 'Connect a calendar server',
  changeServer: 'Change the calendar server',
  subscribe: 'Subscribe to a calendar file',
} as const;

export const connectCalendars = {
  title: 'Connect a calendar server',
  how: 'Fulvet looks for your calendars there (CalDAV). Nothing is read before you choose which.',
  server: 'Address of the server',
  serverHint: 'Such as https://calendar.harbour.example. Its provider names it under CalDAV.',
  userName: 'Name to sign in with',
  password: 'Password',
  passwordHint: 'Left empty, Fulvet signs in as for the mailbox.',
  find: 'Find the calendars',
  found: (found: number) => `${counted(found, 'calendar')} found. Choose what is read.`,
} as const;

export const subscribeCalendar = {
  title: 'Subscribe to a calendar file',
  how: 'Most calendar programs offer a secret address of a calendar (iCalendar, .ics). Whoever knows it can read the calendar: Fulvet keeps it like a password and does not show it again.',
  address: 'Address of the calendar',
  name: 'What it is called here',
  subscribe: 'Subscribe',
  subscribed: (name: string) => `${name} is read from now on, once an hour.`,
} as const;
