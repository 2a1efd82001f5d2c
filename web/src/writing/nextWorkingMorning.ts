import { format } from 'date-fns';

const MORNING_HOUR = 8;

const NONE: ReadonlySet<string> = new Set();

/**
 * Eight o'clock of the next working day, Monday to Friday, as the clock of the reader shows it; today's where it is still to come.
 *
 * @param holidays days on which no one works, as `2026-12-25`
 */
export function nextWorkingMorning(now: Date, holidays: ReadonlySet<string> = NONE): Date {
  const morning = new Date(now);
  morning.setHours(MORNING_HOUR, 0, 0, 0);
  while (morning <= now || morning.getDay() === 0 || morning.getDay() === 6 || holidays.has(format(morning, 'yyyy-MM-dd'))) {
    // By the calendar, not by hours: a day in which the clock changes has another length.
    morning.setDate(morning.getDate() + 1);
    morning.setHours(MORNING_HOUR, 0, 0, 0);
  }
  return morning;
}
