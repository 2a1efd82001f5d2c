import type { LocalTime } from './recurrence';
import { DAY } from './recurrence';
import { zoneOrUtc } from './zones';

/** By what working days are counted: Monday to Friday, without holidays. */
export interface WorkingDays {
  /** A name of the IANA database, such as `Europe/Berlin`; one that is not known counts as UTC. */
  zone: string;
  /** Days on which no one works, as `2026-12-25`. */
  holidays: ReadonlySet<string>;
}

const HOUR = 3_600_000;
/** Between these, by the clock on the wall, something is done that was not asked for at that moment. */
const EARLIEST = 8 * HOUR;
const LATEST = 17 * HOUR;
/** Where years on end are holidays, the days are counted as they come. */
const MOST_DAYS = 3660;

/** `2026-12-24` of a time on the wall. */
export const dayOf = (local: LocalTime): string => new Date(local).toISOString().slice(0, 10);

const isWorking = (local: LocalTime, holidays: ReadonlySet<string>): boolean => {
  const weekday = new Date(local).getUTCDay();
  return weekday !== 0 && weekday !== 6 && !holidays.has(dayOf(local));
};

/**
 * The moment so many working days later, at the same time by the clock on the wall, between eight and five. Days are counted by the calendar: a change of
 * the clock makes nothing earlier or later.
 *
 * @param at milliseconds since 1970
 * @param days none: at once
 */
export function afterWorkingDays(at: number, days: number, { zone: name, holidays }: WorkingDays): number {
  if (days <= 0) return at;
  const zone = zoneOrUtc(name);
  const local = zone.localAt(at);
  let day = Math.floor(local / DAY) * DAY;
  const time = Math.min(LATEST, Math.max(EARLIEST, local - day));
  for (let left = days, looked = 0; left > 0 && looked < MOST_DAYS; looked += 1) {
    day += DAY;
    if (isWorking(day, holidays)) left -= 1;
  }
  return day + time - zone.offsetAt(day + time);
}

/** When the day of a moment began, by the clock of a zone. @param at milliseconds since 1970 */
export function startOfDay(at: number, name: string): number {
  const zone = zoneOrUtc(name);
  const day = Math.floor(zone.localAt(at) / DAY) * DAY;
  return day - zone.offsetAt(day);
}
