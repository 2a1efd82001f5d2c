const MORNING_HOUR = 8;

/** Eight o'clock of the next working day, Monday to Friday, as the clock of the reader shows it; today's where it is still to come. */
export function nextWorkingMorning(now: Date): Date {
  const morning = new Date(now);
  morning.setHours(MORNING_HOUR, 0, 0, 0);
  while (morning <= now || morning.getDay() === 0 || morning.getDay() === 6) {
    // By the calendar, not by hours: a day in which the clock changes has another length.
    morning.setDate(morning.getDate() + 1);
    morning.setHours(MORNING_HOUR, 0, 0, 0);
  }
  return morning;
}
