import ICAL from 'ical.js';
import type { CalendarComponent, CalendarProperty } from './jCal';
import { propertiesOf, propertyOf } from './jCal';
import type { DayBudget, LocalTime } from './recurrence';
import { DAY, occurrencesOf, readLocal, readRecurrence } from './recurrence';
import type { Zone } from './zones';
import { zoneNamed } from './zones';

/** An appointment that recurs longer is known by its first occurrence only. */
const MOST_OCCURRENCES = 5_000;
/** No appointment lasts longer. */
const LONGEST = 30 * DAY;

/** Zones and budget of the calendar object that an event stands in. */
export interface CalendarAround {
  zones: ReadonlyMap<string, Zone>;
  budget: DayBudget;
  /** The zone of times that name none; UTC where the calendar says nothing. */
  floating?: string | undefined;
}

/** When an event begins first, and for how long it lasts. */
export interface EventTime {
  /** The first start on the clock of its zone. */
  local: LocalTime;
  zone: Zone;
  /** Milliseconds since 1970. */
  startsAt: number;
  /** Milliseconds. */
  length: number;
  /** Days without a time (RFC 5545, 3.3.4). Their start is midnight UTC. */
  wholeDay: boolean;
}

/** The time of an event; null where it has none that can be read. */
export function timeOf(event: CalendarComponent, around: CalendarAround): EventTime | null {
  const start = propertyOf(event, 'dtstart');
  const local = start ? readLocal(start.text) : null;
  if (!start || local === null) return null;
  const wholeDay = !start.text.includes('T');
  const zone = wholeDay ? zoneNamed(undefined, around.zones) : zoneOf(start, around);
  const startsAt = instantOf(local, zone);
  return { local, zone, startsAt, length: clamped(lengthOf(event, start, startsAt, around)), wholeDay };
}

const clamped = (length: number): number => Math.max(0, Math.min(length, LONGEST));

function zoneOf(property: CalendarProperty, { zones, floating }: CalendarAround): Zone {
  if (property.text.endsWith('Z')) return zoneNamed(undefined, zones);
  const name = property.parameters['tzid'];
  return zoneNamed(typeof name === 'string' ? name : floating, zones);
}

export function instantOf(local: LocalTime, zone: Zone): number {
  return local - zone.offsetAt(local);
}

/** What a clock in the zone shows at an instant. The second look uses the offset of the first: right on both sides of a change of the clock. */
export function localIn(zone: Zone, at: number): LocalTime {
  return at + zone.offsetAt(at + zone.offsetAt(at));
}

/** Milliseconds from start to end; an event of whole days without an end lasts one day (RFC 5545, 3.6.1). */
function lengthOf(event: CalendarComponent, start: CalendarProperty, startsAt: number, around: CalendarAround): number {
  const end = propertyOf(event, 'dtend');
  const local = end ? readLocal(end.text) : null;
  if (end && local !== null) {
    const zone = end.text.includes('T') ? zoneOf(end, around) : zoneNamed(undefined, around.zones);
    return instantOf(local, zone) - startsAt;
  }
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

/** The instant that a property names, in the zone that it says or in that of the event; null where it cannot be read. */
export function instantIn(property: CalendarProperty, time: EventTime, around: CalendarAround): number | null {
  const local = readLocal(property.text);
  if (local === null) return null;
  if (property.text.endsWith('Z') || typeof property.parameters['tzid'] === 'string') return instantOf(local, zoneOf(property, around));
  return instantOf(local, time.zone);
}

/** What one event excludes: instants, and whole days on the clock of its zone. */
class Exclusions {
  private readonly instants = new Set<number>();
  private readonly days = new Set<LocalTime>();

  constructor(event: CalendarComponent, time: EventTime, around: CalendarAround) {
    for (const property of propertiesOf(event, 'exdate')) {
      const at = instantIn(property, time, around);
      if (at === null) continue;
      if (property.text.includes('T') || time.wholeDay) this.instants.add(at);
      else this.days.add(readLocal(property.text) ?? 0);
    }
  }

  has(at: number, local: LocalTime): boolean {
    return this.instants.has(at) || this.days.has(local - (((local % DAY) + DAY) % DAY));
  }
}

/**
 * The starts of an event that recurs, in order of time, from some instant on; empty for one that does not recur, or by a rule that is not
 * repeated here (see {@link readRecurrence}).
 *
 * @param from milliseconds; earlier ones are left out
 */
export function* startsOf(event: CalendarComponent, time: EventTime, around: CalendarAround, from: number): Generator<number> {
  const { local: start, zone } = time;
  const rule = readRecurrence(propertyOf(event, 'rrule')?.value, (local) => zone.offsetAt(local));
  const excluded = new Exclusions(event, time, around);
  const pending = propertiesOf(event, 'rdate')
    .flatMap((property) => instantIn(property, time, around) ?? [])
    .filter((at) => at >= from && !excluded.has(at, localIn(zone, at)));
  // Dates alone begin with the start; a rule names it itself.
  if (!rule && pending.length > 0 && time.startsAt >= from && !excluded.has(time.startsAt, start)) pending.push(time.startsAt);
  pending.sort((first, second) => first - second);
  let last = -Infinity;
  if (rule) {
    let seen = 0;
    // A day more on either side, so that the offset of a zone cannot hide an occurrence.
    for (const local of occurrencesOf(rule, start, from - 2 * DAY, around.budget)) {
      seen += 1;
      if (seen > MOST_OCCURRENCES) break;
      if (local < from - DAY) continue;
      const at = instantOf(local, zone);
      if (at < from || excluded.has(at, local)) continue;
      while (pending[0] !== undefined && pending[0] < at) {
        const next = pending.shift() ?? 0;
        if (next > last) yield (last = next);
      }
      if (at > last) yield (last = at);
    }
  }
  for (const at of pending) if (at > last) yield (last = at);
}
