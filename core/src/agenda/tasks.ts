import { DAY } from '../calendar/recurrence';
import { dayOf } from '../calendar/workingDays';
import { databaseZone, zoneOrUtc } from '../calendar/zones';

/** When something is due: a day, and a time of it, by the clock of a zone. */
export interface Due {
  /** `2026-12-24` */
  day: string;
  /** `09:30`; null: any time of that day. */
  time: string | null;
  /** A name of the IANA database, such as `Europe/Berlin`; one that is not known counts as UTC. */
  zone: string;
}

export const REPEAT_UNITS = ['day', 'week', 'month', 'year'] as const;

/** How something comes back: every so many days, weeks, months or years. */
export interface Repeat {
  every: number;
  unit: (typeof REPEAT_UNITS)[number];
}

/** Whether the platform knows a time zone of this name. */
export const isKnownZone = (name: string): boolean => databaseZone(name) !== null;

/**
 * The moment at which it is late: the time by the clock on the wall, or the end of the day where it has none.
 *
 * @returns milliseconds since 1970
 */
export function dueMoment({ day, time, zone: name }: Due): number {
  const zone = zoneOrUtc(name);
  const start = Date.parse(`${day}T00:00:00Z`);
  const [hours = 0, minutes = 0] = (time ?? '').split(':').map(Number);
  const local = time === null ? start + DAY : start + hours * 3_600_000 + minutes * 60_000;
  return local - zone.offsetAt(local);
}

/** The day by the clock of a zone. @param at milliseconds since 1970 */
export const dayAt = (at: number, zone: string): string => dayOf(zoneOrUtc(zone).localAt(at));

/**
 * The day on which it comes back: the first of the row that begins at `first` which is later than `due` and not before `today`. The row keeps its day of
 * the month: from January 31 it goes on at the end of February, and on March 31.
 */
export function nextDay(first: string, due: string, today: string, { every, unit }: Repeat): string {
  const start = new Date(`${first}T00:00:00Z`);
  const later = due >= today ? due : today;
  const isNext = (day: string): boolean => day > due && day >= later;
  // Where to begin to look: what lies between can be years.
  const days = Math.max(0, (Date.parse(later) - start.getTime()) / DAY);
  const longest = { day: 1, week: 7, month: 31, year: 366 }[unit] * every;
  for (let at = Math.max(1, Math.floor(days / longest)); ; at += 1) {
    const day = stepOf(start, at * every, unit);
    if (isNext(day)) return day;
  }
}

function stepOf(start: Date, steps: number, unit: Repeat['unit']): string {
  if (unit === 'day' || unit === 'week') return dayOf(start.getTime() + steps * (unit === 'week' ? 7 : 1) * DAY);
  const months = unit === 'year' ? steps * 12 : steps;
  const month = new Date(Date.UTC(start.getUTCFullYear(), start.getUTCMonth() + months, 1));
  const last = new Date(Date.UTC(month.getUTCFullYear(), month.getUTCMonth() + 1, 0)).getUTCDate();
  month.setUTCDate(Math.min(start.getUTCDate(), last));
  return dayOf(month.getTime());
}
