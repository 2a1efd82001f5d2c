import { format } from 'date-fns';
import { nextWorkingMorning } from './nextWorkingMorning';

const MINUTE_MS = 60_000;

/** A moment as a clock on the wall shows it. */
export interface WallTime {
  /** As `2026-12-01`; empty: not chosen. */
  day: string;
  /** As `08:00`. */
  time: string;
}

/**
 * The moment of a wall time.
 *
 * @param offset minutes from UTC of the clock that shows it; null: the reader's own
 */
export function momentOf({ day, time }: WallTime, offset: number | null): Date {
  if (offset === null) return new Date(`${day}T${time}`);
  return new Date(new Date(`${day}T${time}Z`).getTime() - offset * MINUTE_MS);
}

/** The next working morning by that clock. */
export function morningBy(now: Date, offset: number | null, holidays: ReadonlySet<string>): WallTime {
  // The reader's clock is put to what the other one shows.
  const shown = offset === null ? now : new Date(now.getTime() + (offset + now.getTimezoneOffset()) * MINUTE_MS);
  const morning = nextWorkingMorning(shown, holidays);
  return { day: format(morning, 'yyyy-MM-dd'), time: format(morning, 'HH:mm') };
}

/** `UTC+05:30`. */
export function clockName(offset: number): string {
  const minutes = Math.abs(offset);
  const two = (number: number): string => String(number).padStart(2, '0');
  return `UTC${offset < 0 ? '−' : '+'}${two(Math.floor(minutes / 60))}:${two(minutes % 60)}`;
}
