import type { DayBudget, LocalTime, Recurrence } from './recurrence';
import { DAY, occurrencesOf, readLocal, readRecurrence } from './recurrence';
import type { CalendarComponent } from './jCal';
import { componentsOf, propertiesOf, propertyOf } from './jCal';

/** A time zone of one calendar: the milliseconds to subtract from a wall-clock time. It is known to that calendar alone. */
export interface Zone {
  offsetAt(local: LocalTime): number;
}

/** One stretch of standard or daylight time (RFC 5545, 3.6.5). */
interface Observance {
  start: LocalTime;
  rule: Recurrence | null;
  dates: readonly LocalTime[];
  offset: number;
}

const MOST_OBSERVANCES = 50;
const UTC: Zone = { offsetAt: () => 0 };

/** The zones that a calendar defines itself, by their names. */
export function zonesOf(calendar: CalendarComponent, budget: DayBudget): Map<string, Zone> {
  const zones = new Map<string, Zone>();
  for (const component of componentsOf(calendar, 'vtimezone').slice(0, MOST_OBSERVANCES)) {
    const name = propertyOf(component, 'tzid')?.text;
    const observances = [...componentsOf(component, 'standard'), ...componentsOf(component, 'daylight')].slice(0, MOST_OBSERVANCES);
    if (name !== undefined) zones.set(name, new DefinedZone(observances.flatMap(readObservance), budget));
  }
  return zones;
}

/** The zone of a name: one that the calendar defines, else one of the IANA database, else UTC. */
export function zoneNamed(name: string | undefined, defined: ReadonlyMap<string, Zone>): Zone {
  if (name === undefined) return UTC;
  return defined.get(name) ?? databaseZone(name) ?? UTC;
}

function readObservance(component: CalendarComponent): Observance[] {
  const start = readLocal(propertyOf(component, 'dtstart')?.text ?? '');
  const offset = readOffset(propertyOf(component, 'tzoffsetto')?.text ?? '');
  if (start === null || offset === null) return [];
  return [
    {
      start,
      offset,
      rule: readRecurrence(propertyOf(component, 'rrule')?.value),
      dates: propertiesOf(component, 'rdate').flatMap((property) => readLocal(property.text) ?? []),
    },
  ];
}

/** `+05:30` or `+05:30:00`, in milliseconds; null for anything else. */
function readOffset(text: string): number | null {
  const match = /^([+-])(\d{2}):?(\d{2})(?::?(\d{2}))?$/.exec(text);
  if (!match) return null;
  const seconds = Number(match[2]) * 3600 + Number(match[3]) * 60 + Number(match[4] ?? 0);
  return (match[1] === '-' ? -1 : 1) * seconds * 1000;
}

class DefinedZone implements Zone {
  private readonly spans = new Map<Observance, readonly Span[]>();

  constructor(
    private readonly observances: readonly Observance[],
    private readonly budget: DayBudget,
  ) {}

  /** That of the observance which began last; of the earliest one before any has begun. */
  offsetAt(local: LocalTime): number {
    let began = -Infinity;
    let offset = this.earliest()?.offset ?? 0;
    for (const observance of this.observances) {
      const onset = this.lastOnset(observance, local);
      if (onset === null || onset < began) continue;
      began = onset;
      offset = observance.offset;
    }
    return offset;
  }

  private earliest(): Observance | undefined {
    return [...this.observances].sort((first, second) => first.start - second.start)[0];
  }

  /** Asked for each occurrence of an event: what was found holds until the observance begins again. */
  private lastOnset(observance: Observance, local: LocalTime): number | null {
    const spans = this.spans.get(observance) ?? [];
    const known = spans.find(({ from, to }) => local >= from && local < to);
    if (known) return known.onset;
    const found = this.findOnset(observance, local);
    if (spans.length < MOST_SPANS) this.spans.set(observance, [...spans, found]);
    return found.onset;
  }

  private findOnset({ start, rule, dates }: Observance, local: LocalTime): Span {
    let last = start <= local ? start : null;
    let next = start > local ? start : Infinity;
    for (const date of dates) {
      if (date > local) next = Math.min(next, date);
      else if (date > (last ?? -Infinity)) last = date;
    }
    if (rule === null || last === null) return { from: last ?? -Infinity, to: next, onset: last };
    for (const onset of occurrencesOf(rule, start, local - 2 * 366 * DAY, this.budget)) {
      if (onset > local) {
        next = Math.min(next, onset);
        break;
      }
      if (onset > last) last = onset;
    }
    // Where the budget is spent, nothing is known of what comes after.
    return { from: last, to: this.budget.left < 0 ? local + 1 : next, onset: last };
  }
}

/** When an observance began last, for all times from one to the other. */
interface Span {
  from: LocalTime;
  to: LocalTime;
  onset: number | null;
}

const MOST_SPANS = 200;

/** A zone that tells both ways. */
export interface KnownZone extends Zone {
  /** What the clock on the wall shows. @param at milliseconds since 1970 */
  localAt(at: number): LocalTime;
}

const UTC_CLOCK: KnownZone = { offsetAt: () => 0, localAt: (at) => at };

/** The zone of the IANA database of this name; one that is not known counts as UTC. */
export const zoneOrUtc = (name: string): KnownZone => databaseZone(name) ?? UTC_CLOCK;

/** Formats are dear to make. Calendars name what they like, so that only so many are kept. */
const MOST_KEPT = 500;
const kept = new Map<string, KnownZone | null>();

/** A zone of the IANA database, as the platform knows it; null: it knows none of that name. */
export function databaseZone(name: string): KnownZone | null {
  const found = kept.get(name);
  if (found !== undefined) return found;
  if (kept.size >= MOST_KEPT) kept.clear();
  const made = madeZone(name);
  kept.set(name, made);
  return made;
}

function madeZone(name: string): KnownZone | null {
  try {
    const format = new Intl.DateTimeFormat('en-US', {
      timeZone: name.slice(0, 100),
      hourCycle: 'h23',
      year: 'numeric',
      month: 'numeric',
      day: 'numeric',
      hour: 'numeric',
      minute: 'numeric',
      second: 'numeric',
    });
    const shownAt = (at: number): number => {
      const parts = new Map(format.formatToParts(at).map((part) => [part.type, Number(part.value)]));
      const of = (type: Intl.DateTimeFormatPartTypes): number => parts.get(type) ?? 0;
      return Date.UTC(of('year'), of('month') - 1, of('day'), of('hour'), of('minute'), of('second'));
    };
    const offsetOf = (at: number): number => shownAt(at) - Math.floor(at / 1000) * 1000;
    // The second look uses the offset of the first: right on both sides of a change of the clock.
    return { offsetAt: (local) => offsetOf(local - offsetOf(local)), localAt: (at) => at + offsetOf(at) };
  } catch {
    return null;
  }
}
