import { counted } from '../../parts/numbers';

/** The texts of meeting times, by the file that shows them. */

export const meetingTimesPage = {
  title: 'Meeting times',
  purpose: 'Guests choose a time at which you are free, by a link of their own. Both of you get an invitation.',
  add: 'New kind of meeting',
  kinds: 'Kinds of meeting',
  none: 'There is none yet. A kind says how long a meeting lasts, and on which days and at which hours you can be met.',
  minutes: (minutes: number) => counted(minutes, 'minute'),
  hours: (from: string, to: string) => `${from} to ${to}`,
  with: (names: string) => `with ${names}`,
  anyOf: (names: string) => `with one of ${names}, by turns`,
  noCalendar: (names: string) => `No calendar of ${names} is read: only what guests book here counts as taken.`,
  edit: 'Edit',
  remove: 'Remove',
  getLink: 'Get a link',
  named: (act: string, name: string) => `${act}: ${name}`,
  removed: (name: string) => `${name} is removed. What was booked stays.`,
  restored: (name: string) => `${name} is offered again.`,
  linkTitle: 'A link for one guest',
  linkText: 'Whoever has this link can book one time with it, and later move or cancel it. Send it to one person.',
  copy: 'Copy the link',
  close: 'Close',
  booked: 'Booked',
  noneBooked: 'Nothing is booked.',
  cancel: 'Cancel the meeting',
  cancelNamed: (name: string) => `Cancel the meeting with ${name}`,
  cancelTitle: (name: string) => `Cancel the meeting with ${name}?`,
  cancelText: 'The guest and the members get an email that cancels it, and the time is free again.',
  keep: 'Keep it',
  cancelled: 'The meeting is cancelled.',
} as const;

export const kindEditor = {
  newTitle: 'New kind of meeting',
  editTitle: 'Kind of meeting',
  name: 'Name',
  nameHint: 'Guests read it, such as “Call of half an hour”.',
  about: 'What it is about',
  aboutHint: 'Guests read it, too.',
  place: 'Where, or how it is reached',
  minutes: 'Minutes',
  from: 'From',
  to: 'To',
  zone: 'Time zone',
  days: 'Days',
  breakMinutes: 'Minutes free before and after',
  noticeHours: 'Hours of notice',
  aheadDays: 'Days ahead',
  members: 'Members who are met',
  noMember: 'none chosen',
  noDay: 'none chosen',
  needs: 'Who takes part',
  all: 'All of them',
  any: 'One of those who are free, by turns',
  save: 'Save',
  saved: (name: string) => `${name} is saved.`,
} as const;

export const weekdays = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'] as const;

export const offerTimes = {
  offer: 'Offer times …',
  title: 'Offer times for a meeting',
  none: 'There is no kind of meeting yet. Add one under Meeting times.',
  kind: 'Kind of meeting',
  insertLink: 'Insert a link',
  insertTimes: 'Insert three times',
  linkWords: 'Choose a time for our meeting',
  otherTimes: 'Other times',
  noTime: 'No time is free. Insert the link, or change the kind of meeting.',
} as const;
