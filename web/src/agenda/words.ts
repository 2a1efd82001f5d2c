import { counted } from '../parts/numbers';

/** The texts of these screens, by the file that shows them. Places in braces are filled by `filled`. */

export const tasksPage = {
  tasks: 'Tasks',
  whatIsToBeDone: 'What you and your colleagues are to do, from mail and from records.',
  newTask: 'New task',
  mine: 'Yours',
  all: 'Everyone’s',
  open: 'Open',
  done: 'Done',
  who: 'Tasks of',
  state: 'Which tasks',
  overdue: 'Overdue',
  today: 'Today',
  nextSevenDays: 'Next 7 days',
  later: 'Later',
  noDay: 'Without a day',
  nothingOpen: 'Nothing to do',
  nothingDone: 'Nothing done yet',
  writeOneDown: 'Create a task here, on a record, or from an email with the key D.',
  ofTheShown: (chosen: number) => `${counted(chosen, 'task')} chosen`,
  more: 'Show more',
  selectAll: 'Select all in this part',
  asICalendar: 'Yours as iCalendar',
} as const;

export const taskActs = {
  done: 'Done',
  openAgain: 'Open again',
  moveTo: 'Move to',
  move: 'Move to another day',
  handOver: 'Hand over to',
  remove: 'Remove',
  tomorrow: 'tomorrow',
  inAWeek: 'in a week',
  changed: (changed: number) => `${counted(changed, 'task')} changed.`,
  isDone: (text: string) => `Done: ${text}`,
  comesBack: (text: string, day: string) => `Done: ${text}. It comes back ${day}.`,
  isOpenAgain: 'The task is open again.',
  removed: 'The task is removed.',
  kept: (kept: number, why: string) => `${counted(kept, 'task')} not changed: ${why}.`,
  nothingChanged: 'Nothing was changed.',
} as const;

export const taskLine = {
  markAsDone: (text: string) => `Done: ${text}`,
  select: (text: string) => `Select ${text}`,
  openAgain: 'Open again',
  change: 'Change',
  email: 'email',
  by: (name: string) => `for ${name}`,
  private: 'only for you',
  doneBy: (name: string) => `done by ${name}`,
  endedByMail: 'ended by an email',
  ended: 'ended by logged contact',
  repeats: 'comes back',
  endsBy: (what: string) => `until ${what}`,
} as const;

export const taskDue = {
  today: 'today',
  tomorrow: 'tomorrow',
  yesterday: 'yesterday',
  atTime: (day: string, time: string) => `${day}, ${time}`,
} as const;

export const taskEnds = {
  'our answer': 'one of us answers',
  'their answer': 'they answer',
  meeting: 'a meeting is arranged',
} as const;

export const taskForm = {
  newTask: 'New task',
  changeTask: 'Change the task',
  what: 'What is to be done',
  details: 'Details',
  due: 'Due',
  day: 'Day',
  time: 'Time',
  noDay: 'no day',
  who: 'Who does it',
  about: 'About',
  endsBy: 'Ends by itself when',
  byHand: 'only by hand',
  repeat: 'Comes back',
  never: 'never',
  every: 'Every',
  onlyUs: 'Only I and who does it see it',
  othersSee: 'Everyone who sees one of these records, and may read its email, sees it.',
  save: 'Save the task',
  saved: 'The task is saved.',
  sayWhat: 'Say what is to be done.',
} as const;

export const repeatUnits = { day: 'days', week: 'weeks', month: 'months', year: 'years' } as const;

export const taskList = {
  toDo: 'To do',
  addTask: 'Task',
  more: 'All of your tasks',
} as const;

export const emailTasks = {
  toDo: 'To do',
  makeTask: 'Make it a task',
  answer: (name: string, subject: string) => `Answer ${name}: ${subject}`,
  followUp: (subject: string) => `Ask again: ${subject}`,
  isATask: 'It is a task for today.',
  isATaskForDay: (day: string) => `It is a task for ${day}.`,
} as const;
