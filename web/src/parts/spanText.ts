import { spanText as words } from './words';
const DAY = 86_400_000;
const day = new Intl.DateTimeFormat(undefined, { weekday: 'short', day: 'numeric', month: 'short', year: 'numeric' });
const dayInUtc = new Intl.DateTimeFormat(undefined, { weekday: 'short', day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' });
const time = new Intl.DateTimeFormat(undefined, { hour: '2-digit', minute: '2-digit' });

/** From when to when, in the reader's zone: `Mon, Nov 30, 2026, 10:00 to 11:00`. Whole days, which begin at midnight UTC, have no times. */
export function spanText(from: string, to: string): string {
  const [start, end] = [Date.parse(from), Date.parse(to)];
  if (start % DAY === 0 && end > start && end % DAY === 0) {
    const [first, last] = [dayInUtc.format(start), dayInUtc.format(end - DAY)];
    return first === last ? first : words.to(first, last);
  }
  if (end <= start) return `${day.format(start)}, ${time.format(start)}`;
  const isOneDay = day.format(start) === day.format(end);
  return words.fromTo(day.format(start), time.format(start), isOneDay ? '' : `${day.format(end)}, `, time.format(end));
}
