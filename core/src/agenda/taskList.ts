import ICAL from 'ical.js';
import { componentsOf, propertyOf, readCalendar } from '../calendar/jCal';
import type { CalendarComponent } from '../calendar/jCal';
import { timeOf } from '../calendar/eventTimes';
import type { DayBudget } from '../calendar/recurrence';
import { zoneOrUtc, zonesOf } from '../calendar/zones';
import { dueMoment } from './tasks';
import type { Due } from './tasks';

/** What a task and a to-do of a list (RFC 5545, VTODO) say of the same thing. */
export interface ListState {
  text: string;
  details: string;
  /** A day as `2026-12-24`, a moment in ISO 8601, or null. */
  due: string | null;
  done: boolean;
}

/** A to-do as it stands in a list. */
export interface ListedTodo {
  uid: string;
  state: ListState;
  /** It comes back by a rule of its own, which no task has. */
  recurs: boolean;
}

/** Days that rules of time zones are looked through. */
const MOST_DAYS = 100_000;
const LONGEST_TEXT = 500;
const LONGEST_DETAILS = 20_000;

/** The to-do of a calendar object; null where there is none that can be read. Nothing in it is evaluated. */
export function readTodo(text: string): ListedTodo | null {
  const calendar = readCalendar(text);
  const todo = calendar ? masterOf(calendar) : undefined;
  if (!calendar || !todo) return null;
  const uid = propertyOf(todo, 'uid')?.text ?? '';
  if (uid === '') return null;
  const status = propertyOf(todo, 'status')?.text.toUpperCase();
  return {
    uid: uid.slice(0, 255),
    state: {
      text: textForList(propertyOf(todo, 'summary')?.text ?? ''),
      details: detailsForList(propertyOf(todo, 'description')?.text ?? ''),
      due: dueOf(calendar, todo),
      done: status === 'COMPLETED' || status === 'CANCELLED' || (status === undefined && propertyOf(todo, 'completed') !== undefined),
    },
    recurs: propertyOf(todo, 'rrule') !== undefined || propertyOf(todo, 'rdate') !== undefined,
  };
}

const masterOf = (calendar: CalendarComponent): CalendarComponent | undefined => {
  const todos = calendar[0] === 'vcalendar' ? componentsOf(calendar, 'vtodo') : [];
  return todos.find((todo) => propertyOf(todo, 'recurrence-id') === undefined) ?? todos[0];
};

/** A text as lists keep it: one line. Control characters mean nothing in it, and PostgreSQL keeps no zero byte. */
export const textForList = (text: string): string =>
  text
    .replace(/[\p{Cc}\s]+/gu, ' ')
    .trim()
    .slice(0, LONGEST_TEXT)
    .trimEnd();

/** Details as lists keep them: lines. */
export const detailsForList = (text: string): string =>
  text
    .replace(/\r\n?/g, '\n')
    .replace(/[\u0000-\u0008\u000b-\u001f\u007f]/g, '')
    .trim()
    .slice(0, LONGEST_DETAILS)
    .trimEnd();

function dueOf(calendar: CalendarComponent, todo: CalendarComponent): string | null {
  const due = propertyOf(todo, 'due') ?? propertyOf(todo, 'dtstart');
  if (!due) return null;
  const budget: DayBudget = { left: MOST_DAYS };
  // The time of an event is read from its start.
  const asEvent: CalendarComponent = ['vevent', [['dtstart', due.parameters, 'text', due.value]], []];
  const time = timeOf(asEvent, { zones: zonesOf(calendar, budget), budget });
  if (!time || Math.abs(time.startsAt) > 8e15) return null;
  const moment = new Date(time.startsAt);
  const year = moment.getUTCFullYear();
  if (year < 1970 || year > 2200) return null;
  return time.wholeDay ? moment.toISOString().slice(0, 10) : moment.toISOString();
}

/**
 * A calendar object that says this of the to-do, and all else as before.
 *
 * @param before the object as it stands in the list; null: a new one
 * @param at when it is written, milliseconds since 1970
 * @returns null where what stands there cannot be read
 */
export function writtenTodo(before: string | null, uid: string, state: ListState, at: number): string | null {
  const known = before === null ? null : readTodo(before);
  if (before !== null && !known) return null;
  const calendar = before === null ? newCalendar() : new ICAL.Component(ICAL.parse(before) as [string, unknown[], unknown[]]);
  const todos = calendar.getAllSubcomponents('vtodo');
  const todo = todos.find((item) => !item.hasProperty('recurrence-id')) ?? todos[0] ?? newTodo(calendar, uid, at);
  const is = known?.state;
  if (is?.text !== state.text) todo.updatePropertyWithValue('summary', state.text);
  if (is?.details !== state.details) {
    if (state.details === '') todo.removeAllProperties('description');
    else todo.updatePropertyWithValue('description', state.details);
  }
  if ((is?.due ?? null) !== state.due) setDue(todo, state.due);
  if ((is?.done ?? false) !== state.done || !is) setDone(todo, state.done, at);
  todo.updatePropertyWithValue('dtstamp', inUtc(at));
  todo.updatePropertyWithValue('last-modified', inUtc(at));
  const sequence = Number(todo.getFirstPropertyValue('sequence') ?? -1);
  todo.updatePropertyWithValue('sequence', Number.isSafeInteger(sequence) ? sequence + 1 : 1);
  return `${calendar.toString()}\r\n`;
}

function newCalendar(): ICAL.Component {
  const calendar = new ICAL.Component('vcalendar');
  calendar.addPropertyWithValue('version', '2.0');
  calendar.addPropertyWithValue('prodid', '-//Fulvet//Tasks//EN');
  return calendar;
}

function newTodo(calendar: ICAL.Component, uid: string, at: number): ICAL.Component {
  const todo = new ICAL.Component('vtodo');
  todo.addPropertyWithValue('uid', uid);
  todo.addPropertyWithValue('created', inUtc(at));
  calendar.addSubcomponent(todo);
  return todo;
}

function setDue(todo: ICAL.Component, due: string | null): void {
  for (const name of ['due', 'duration', 'dtstart']) todo.removeAllProperties(name);
  if (due !== null) todo.addPropertyWithValue('due', due.includes('T') ? inUtc(Date.parse(due)) : ICAL.Time.fromDateString(due));
}

function setDone(todo: ICAL.Component, done: boolean, at: number): void {
  todo.updatePropertyWithValue('status', done ? 'COMPLETED' : 'NEEDS-ACTION');
  todo.removeAllProperties('completed');
  todo.removeAllProperties('percent-complete');
  if (done) {
    todo.addPropertyWithValue('completed', inUtc(at));
    todo.addPropertyWithValue('percent-complete', 100);
  }
}

const inUtc = (at: number): ICAL.Time => ICAL.Time.fromJSDate(new Date(at), true);

/** What a due day of a task is in a list. */
export const listedDue = (due: Due | null): string | null =>
  due === null ? null : due.time === null ? due.day : new Date(dueMoment(due)).toISOString();

/** What the due day of a list is for a task, by the clock of a zone. */
export function dueFromList(due: string | null, zone: string): Due | null {
  if (due === null) return null;
  if (!due.includes('T')) return { day: due, time: null, zone };
  const local = new Date(zoneOrUtc(zone).localAt(Date.parse(due))).toISOString();
  return { day: local.slice(0, 10), time: local.slice(11, 16), zone };
}

/**
 * What both sides are to say, where each may have changed since they said the same: each field as the side that changed it says, and where both did, as the
 * task says.
 */
export function mergedState(base: ListState, ours: ListState, theirs: ListState): ListState {
  const of = <K extends keyof ListState>(field: K): ListState[K] => (ours[field] === base[field] ? theirs[field] : ours[field]);
  return { text: of('text') || ours.text, details: of('details'), due: of('due'), done: of('done') };
}

export const isSameState = (one: ListState, other: ListState): boolean =>
  one.text === other.text && one.details === other.details && one.due === other.due && one.done === other.done;
