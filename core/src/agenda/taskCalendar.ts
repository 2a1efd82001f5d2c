import ICAL from 'ical.js';
import type { REPEAT_UNITS } from './tasks';

/** A task, as far as a calendar program shows it. */
export interface CalendarTask {
  id: number;
  text: string;
  details: string;
  /** `day` as `2026-12-24`; `time` null: at any time of that day. */
  due: { day: string; time: string | null } | null;
  /** When it is late, ISO 8601. */
  dueAt: string | null;
  repeat: { every: number; unit: (typeof REPEAT_UNITS)[number] } | null;
  done: { at: string } | null;
  revision: number;
  createdAt: string;
}

const FREQUENCIES = { day: 'DAILY', week: 'WEEKLY', month: 'MONTHLY', year: 'YEARLY' } as const;

/**
 * Tasks as an iCalendar object of VTODOs (RFC 5545). A task is the same one whenever it is taken out: by its UID, with a SEQUENCE that grows.
 *
 * @param host what the UIDs end with: the domain of whoever takes them out
 */
export function tasksAsCalendar(tasks: readonly CalendarTask[], host: string, now: Date): string {
  const calendar = new ICAL.Component('vcalendar');
  calendar.addPropertyWithValue('version', '2.0');
  calendar.addPropertyWithValue('prodid', '-//Fulvet//Tasks//EN');
  for (const task of tasks) calendar.addSubcomponent(todoOf(task, host, now));
  return `${calendar.toString()}\r\n`;
}

function todoOf(task: CalendarTask, host: string, now: Date): ICAL.Component {
  const todo = new ICAL.Component('vtodo');
  todo.addPropertyWithValue('uid', `task-${task.id}@${host}`);
  todo.addPropertyWithValue('dtstamp', inUtc(now));
  todo.addPropertyWithValue('created', inUtc(new Date(task.createdAt)));
  todo.addPropertyWithValue('sequence', task.revision);
  todo.addPropertyWithValue('summary', task.text);
  if (task.details !== '') todo.addPropertyWithValue('description', task.details);
  const due = dueOf(task);
  if (due) {
    // What comes back has to begin somewhere (RFC 5545, 3.8.5.3); due is later than the beginning, or it is left out.
    todo.addPropertyWithValue(task.repeat ? 'dtstart' : 'due', due);
    if (task.repeat)
      todo.addPropertyWithValue('rrule', ICAL.Recur.fromData({ freq: FREQUENCIES[task.repeat.unit], interval: task.repeat.every }));
  }
  todo.addPropertyWithValue('status', task.done ? 'COMPLETED' : 'NEEDS-ACTION');
  if (task.done) todo.addPropertyWithValue('completed', inUtc(new Date(task.done.at)));
  return todo;
}

function dueOf({ due, dueAt }: CalendarTask): ICAL.Time | null {
  if (!due) return null;
  return due.time === null || dueAt === null ? ICAL.Time.fromDateString(due.day) : inUtc(new Date(dueAt));
}

const inUtc = (at: Date): ICAL.Time => ICAL.Time.fromJSDate(at, true);
