import ICAL from 'ical.js';
import { cleanText } from '../text/cleanText';
import type { CalendarComponent, CalendarProperty } from './jCal';
import { componentsOf, propertiesOf, propertyOf, readCalendar } from './jCal';
import type { DayBudget, LocalTime } from './recurrence';
import { DAY, occurrencesOf, readLocal, readRecurrence } from './recurrence';
import type { Zone } from './zones';
import { zoneNamed, zonesOf } from './zones';

/** A meeting that an email invites to, changes or cancels. */
export interface Meeting {
  /** The same in all emails about one meeting. */
  uid: string;
  /** Higher for later changes. */
  sequence: number;
  cancelled: boolean;
  /** Milliseconds; times without a zone are taken for UTC. */
  startsAt: number;
  endsAt: number;
  summary: string;
  location: string;
}

const MOST_MEETINGS = 20;
/** An appointment that recurs longer is known by its first occurrence only. */
const MOST_OCCURRENCES = 5_000;
/** Days that the rules of one email may be compared with: some milliseconds of work. */
const MOST_DAYS = 20_000;

/**
 * The meetings in the calendar objects (RFC 5545) of one email (RFC 6047); what cannot be read is left out. Of a recurring meeting, the
 * next occurrence after `from` counts, else the first.
 *
 * All objects share one budget of days, and their time zones are their own: nothing is kept for the next email.
 *
 * @param from milliseconds
 */
export function meetingsOf(texts: readonly string[], from: number): Meeting[] {
  const budget: DayBudget = { left: MOST_DAYS };
  const meetings: Meeting[] = [];
  for (const text of texts) {
    const calendar = readCalendar(text);
    if (!calendar) continue;
    const cancels = propertyOf(calendar, 'method')?.text.toUpperCase() === 'CANCEL';
    const zones = zonesOf(calendar, budget);
    for (const event of componentsOf(calendar, 'vevent')) {
      if (meetings.length === MOST_MEETINGS) return meetings;
      const meeting = meetingOf(event, { cancels, from, zones, budget });
      if (meeting) meetings.push(meeting);
    }
  }
  return meetings;
}

interface Around {
  cancels: boolean;
  from: number;
  zones: ReadonlyMap<string, Zone>;
  budget: DayBudget;
}

function meetingOf(event: CalendarComponent, around: Around): Meeting | null {
  const start = propertyOf(event, 'dtstart');
  const uid = cleanText(propertyOf(event, 'uid')?.text ?? '').slice(0, 500);
  const local = start ? readLocal(start.text) : null;
  if (!start || local === null || uid === '') return null;
  const zone = zoneOf(start, around.zones);
  const first = instantOf(local, zone);
  const startsAt = nextOccurrence(event, local, zone, around) ?? first;
  const length = lengthOf(event, start, first, around.zones);
  return {
    uid,
    sequence: Math.trunc(Number(propertyOf(event, 'sequence')?.value)) || 0,
    cancelled: around.cancels || propertyOf(event, 'status')?.text.toUpperCase() === 'CANCELLED',
    startsAt,
    endsAt: startsAt + Math.max(0, Math.min(length, 30 * DAY)),
    summary: cleanText(propertyOf(event, 'summary')?.text ?? '').slice(0, 300),
    location: cleanText(propertyOf(event, 'location')?.text ?? '').slice(0, 300),
  };
}

function zoneOf(property: CalendarProperty, zones: ReadonlyMap<string, Zone>): Zone {
  if (property.text.endsWith('Z')) return zoneNamed(undefined, zones);
  const name = property.parameters['tzid'];
  return zoneNamed(typeof name === 'string' ? name : undefined, zones);
}

function instantOf(local: LocalTime, zone: Zone): number {
  return local - zone.offsetAt(local);
}

/** Milliseconds from start to end; a meeting of whole days without an end lasts one day (RFC 5545, 3.6.1). */
function lengthOf(event: CalendarComponent, start: CalendarProperty, first: number, zones: ReadonlyMap<string, Zone>): number {
  const end = propertyOf(event, 'dtend');
  const local = end ? readLocal(end.text) : null;
  if (end && local !== null) return instantOf(local, zoneOf(end, zones)) - first;
  const duration = propertyOf(event, 'duration')?.text;
  if (duration !== undefined) return durationOf(duration);
  return start.text.includes('T') ? 0 : DAY;
}

function durationOf(text: string): number {
  try {
    return ICAL.Duration.fromString(text).toSeconds() * 1000;
  } catch {
    return 0;
  }
}

function nextOccurrence(event: CalendarComponent, start: LocalTime, zone: Zone, { from, budget }: Around): number | null {
  const rule = readRecurrence(propertyOf(event, 'rrule')?.value, (local) => zone.offsetAt(local));
  const extra = propertiesOf(event, 'rdate').flatMap((property) => readLocal(property.text) ?? []);
  const excluded = new Set(propertiesOf(event, 'exdate').flatMap((property) => readLocal(property.text) ?? []));
  let next: number | null = null;
  for (const local of extra) {
    const at = instantOf(local, zone);
    if (at >= from && !excluded.has(local) && at < (next ?? Infinity)) next = at;
  }
  if (!rule) return next;
  let seen = 0;
  // A day more on either side, so that the offset of a zone cannot hide an occurrence.
  for (const local of occurrencesOf(rule, start, from - 2 * DAY, budget)) {
    seen += 1;
    if (seen > MOST_OCCURRENCES) return next;
    if (local < from - DAY || excluded.has(local)) continue;
    const at = instantOf(local, zone);
    if (at >= from) return Math.min(at, next ?? Infinity);
  }
  return next;
}
