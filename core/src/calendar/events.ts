import ICAL from 'ical.js';
import type { CalendarComponent } from './jCal';
import { componentsOf, propertyOf, readCalendar } from './jCal';
import type { Guest } from './eventParts';
import { descriptionOf, guestsOf, isCancelled, lineOf, organizerOf, roomsOf, sequenceOf, uidOf, usualZoneOf } from './eventParts';
import type { CalendarAround, EventTime } from './eventTimes';
import { instantIn, instantOf, localIn, startsOf, timeOf } from './eventTimes';
import type { Meeting } from './meetings';
import type { DayBudget } from './recurrence';
import { zonesOf } from './zones';

/** One event of a calendar, or one occurrence of an event that recurs. */
export interface CalendarEvent extends Omit<Meeting, 'answers'> {
  description: string;
  organizer: Guest | null;
  guests: Guest[];
  rooms: string[];
  /** It takes no time of its owner (RFC 5545, 3.8.2.7). */
  isFree: boolean;
  /** Its owner says that it is no one else's business (RFC 5545, 3.8.1.3). */
  isPrivate: boolean;
}

/** From when to when events are wanted, milliseconds. */
export interface EventWindow {
  from: number;
  to: number;
}

/** Of one event that recurs, so many occurrences at most. */
const MOST_OCCURRENCES = 1_000;
/** Of one calendar object or file. */
const MOST_EVENTS = 20_000;
/** Days that the rules of one event may be compared with. */
const MOST_DAYS = 20_000;

/**
 * The events in a calendar object or file (RFC 5545) that lie in a window, in order of time: occurrences of those that recur, each as it was changed,
 * moved or cancelled by itself or with all later ones (RECURRENCE-ID, RANGE).
 *
 * Never rejects: what cannot be read is left out.
 */
export function eventsOf(text: string, window: EventWindow): CalendarEvent[] {
  const calendar = readCalendar(text);
  if (!calendar) return [];
  const families = familiesOf(calendar);
  const events: CalendarEvent[] = [];
  const budget: DayBudget = { left: 0 };
  const around = { zones: zonesOf(calendar, budget), budget, floating: usualZoneOf(calendar) };
  for (const family of families.values()) {
    budget.left = MOST_DAYS;
    events.push(...occurrencesIn(family, around, window));
    if (events.length >= MOST_EVENTS) break;
  }
  return events.slice(0, MOST_EVENTS).sort((first, second) => first.startsAt - second.startsAt);
}

/** The events of a calendar by their UID: one, and the changes of its occurrences. */
function familiesOf(calendar: CalendarComponent): Map<string, CalendarComponent[]> {
  const families = new Map<string, CalendarComponent[]>();
  for (const event of componentsOf(calendar, 'vevent')) {
    const uid = uidOf(event);
    if (uid === '') continue;
    const family = families.get(uid);
    if (family) family.push(event);
    else families.set(uid, [event]);
  }
  return families;
}

/** Whether an object holds an event that recurs: what lies in the window changes with the window then. */
export function recurs(text: string): boolean {
  const calendar = readCalendar(text);
  return calendar !== null && componentsOf(calendar, 'vevent').some((event) => isRecurring(event));
}

/** An event of a calendar file with all its occurrences, as an object of its own. */
export interface SplitCalendar {
  uid: string;
  /** The calendar object (RFC 5545), with the time zones of the file. */
  text: string;
}

/** The objects that a calendar file consists of; null where it is none. */
export function splitCalendar(text: string): SplitCalendar[] | null {
  const calendar = readCalendar(text);
  if (calendar?.[0] !== 'vcalendar') return null;
  const zones = componentsOf(calendar, 'vtimezone');
  return [...familiesOf(calendar)].map(([uid, family]) => ({
    uid,
    text: ICAL.stringify(['vcalendar', [...calendar[1]], [...zones, ...family]] as never),
  }));
}

const isRecurring = (event: CalendarComponent): boolean =>
  propertyOf(event, 'rrule') !== undefined || propertyOf(event, 'rdate') !== undefined || propertyOf(event, 'recurrence-id') !== undefined;

/** A change of one occurrence, or of it and all later ones. */
interface Change {
  event: CalendarComponent;
  time: EventTime;
  /** When the occurrence was to begin at first. */
  occursAt: number;
  onward: boolean;
}

function occurrencesIn(family: readonly CalendarComponent[], around: CalendarAround, { from, to }: EventWindow): CalendarEvent[] {
  const master = latest(family.filter((event) => !propertyOf(event, 'recurrence-id')));
  const changes = changesIn(family, master, around);
  const overlaps = (event: CalendarEvent): boolean => event.startsAt < to && event.endsAt >= from;
  const time = master ? timeOf(master, around) : null;
  if (!master || !time) return [...changes.values()].map((change) => changed(change, change.occursAt)).filter(overlaps);
  if (!isRecurring(master)) return [eventAt(master, time, time.startsAt, null)].filter(overlaps);
  const onward = [...changes.values()].filter((change) => change.onward).sort((first, second) => first.occursAt - second.occursAt);
  // A change onward can move its occurrences into the window from before it.
  const shift = Math.max(0, ...onward.map((change) => Math.abs(change.time.startsAt - change.occursAt)));
  const found: CalendarEvent[] = [];
  const taken = new Set<number>();
  for (const occursAt of startsOf(master, time, around, from - time.length - shift)) {
    if (occursAt >= to + shift || found.length >= MOST_OCCURRENCES) break;
    taken.add(occursAt);
    const own = changes.get(occursAt);
    const by = own ?? onward.findLast((change) => change.occursAt <= occursAt);
    found.push(by ? changed(by, occursAt) : eventAt(master, time, occursAt, occursAt));
  }
  // One that was moved into the window from far away, or that the rule does not name.
  for (const change of changes.values()) if (!taken.has(change.occursAt)) found.push(changed(change, change.occursAt));
  return found.filter(overlaps);
}

/** The changes of single occurrences, by when these were to begin at first; the latest of each. */
function changesIn(
  family: readonly CalendarComponent[],
  master: CalendarComponent | undefined,
  around: CalendarAround,
): Map<number, Change> {
  const changes = new Map<number, Change>();
  const masterTime = master ? timeOf(master, around) : null;
  for (const event of family) {
    const recurrence = propertyOf(event, 'recurrence-id');
    const time = timeOf(event, around);
    if (!recurrence || !time) continue;
    const occursAt = instantIn(recurrence, masterTime ?? time, around);
    if (occursAt === null) continue;
    const known = changes.get(occursAt);
    if (known && sequenceOf(known.event) > sequenceOf(event)) continue;
    changes.set(occursAt, { event, time, occursAt, onward: String(recurrence.parameters['range']).toUpperCase() === 'THISANDFUTURE' });
  }
  return changes;
}

function latest(events: readonly CalendarComponent[]): CalendarComponent | undefined {
  return events.reduce<CalendarComponent | undefined>(
    (best, event) => (best === undefined || sequenceOf(event) >= sequenceOf(best) ? event : best),
    undefined,
  );
}

/** An occurrence as a change says: by as much earlier or later as the one that was changed, on the clock of its zone. */
function changed({ event, time, occursAt: first }: Change, occursAt: number): CalendarEvent {
  if (occursAt === first) return eventAt(event, time, time.startsAt, occursAt);
  const { zone } = time;
  const local = time.local + localIn(zone, occursAt) - localIn(zone, first);
  return eventAt(event, time, instantOf(local, zone), occursAt);
}

function eventAt(event: CalendarComponent, time: EventTime, startsAt: number, occursAt: number | null): CalendarEvent {
  return {
    uid: uidOf(event),
    occursAt,
    sequence: sequenceOf(event),
    cancelled: isCancelled(event),
    startsAt,
    endsAt: startsAt + time.length,
    wholeDay: time.wholeDay,
    summary: lineOf(event, 'summary'),
    location: lineOf(event, 'location'),
    description: descriptionOf(event),
    organizer: organizerOf(event),
    guests: guestsOf(event),
    rooms: roomsOf(event),
    isFree: propertyOf(event, 'transp')?.text.toUpperCase() === 'TRANSPARENT',
    isPrivate: ['PRIVATE', 'CONFIDENTIAL'].includes(propertyOf(event, 'class')?.text.toUpperCase() ?? ''),
  };
}
