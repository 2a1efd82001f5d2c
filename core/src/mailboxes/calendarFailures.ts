/** What can keep a calendar from being read, each with words of its own. */
export const CALENDAR_FAILURES = {
  'name-unknown': {
    title: 'The server’s name is not known',
    remedy: 'Look for a typing error in the address of the calendar.',
  },
  'host-refused': {
    title: 'This server may not be used',
    remedy:
      'Its address is in a private network, and this installation does not connect to those. If it is right all the same, the person who runs Fulvet can allow it (FULVET_PRIVATE_HOSTS=1).',
  },
  'not-secure': {
    title: 'The address is not secure',
    remedy: 'Use an address that begins with https://. Fulvet never sends a password in the open.',
  },
  'no-answer': {
    title: 'The calendar server does not answer',
    remedy: 'The server is down or very slow, or a firewall blocks the connection. Fulvet tries again.',
  },
  'sign-in-refused': {
    title: 'The calendar server refused the sign-in',
    remedy: 'Enter the name and password of the calendar again. Some providers want a password of its own for programs.',
  },
  'not-found': {
    title: 'There is no calendar at this address',
    remedy: 'Copy the address again from the settings of the calendar; for a server, its own address is enough.',
  },
  'not-a-calendar': {
    title: 'What is at this address is no calendar',
    remedy: 'The address has to lead to a calendar server (CalDAV) or to a calendar file (iCalendar, .ics), not to a page that shows it.',
  },
  'too-large': {
    title: 'The calendar is too large',
    remedy: 'The server sends more than Fulvet reads at once. Choose another calendar, or move old events to an archive.',
  },
  'most-gone': {
    title: 'Most of the list is gone',
    remedy: 'Nothing was removed here. If it is meant so, remove these tasks under Tasks. If not, restore the list at its server.',
  },
  'not-followed': {
    title: 'The list is no longer kept',
    remedy: 'It shows the tasks of whoever owns the mailbox, so that they have to choose it themselves.',
  },
  throttled: {
    title: 'The provider asks for a pause',
    remedy: 'Too many requests in a short time. Fulvet tries again later; nothing is to be done.',
  },
} as const satisfies Record<string, { title: string; remedy: string }>;

export type CalendarFailureCode = keyof typeof CALENDAR_FAILURES;
