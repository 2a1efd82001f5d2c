/** Milliseconds of a day. */
export const DAY = 86_400_000;

/** A wall-clock time: the milliseconds that UTC would show the same date and time at. It has no zone. */
export type LocalTime = number;

/** A recurrence rule of RFC 5545 (3.3.10), without the parts that repeat within a day. */
export interface Recurrence {
  frequency: 'DAILY' | 'WEEKLY' | 'MONTHLY' | 'YEARLY';
  interval: number;
  count: number | null;
  until: LocalTime | null;
  months: readonly number[];
  monthDays: readonly number[];
  yearDays: readonly number[];
  /** Day of the week (0 is Sunday), with its place in the month or year, or 0 for every such day. */
  weekDays: readonly { day: number; place: number }[];
  positions: readonly number[];
  weekStart: number;
}

/**
 * How many more days may be looked at. One budget serves all calendars of an email, so that no combination of rules costs more than a few
 * milliseconds, whatever they say.
 */
export interface DayBudget {
  left: number;
}

const LATEST = Date.UTC(9999, 0, 1);
const MOST_INTERVAL = 1_000;
const DAY_NAMES = ['SU', 'MO', 'TU', 'WE', 'TH', 'FR', 'SA'];

/**
 * Reads a rule in its jCal form (RFC 7265, 3.6.10). Null for what this module does not repeat: rules finer than a day, by week number, or
 * unreadable ones. Such an appointment is known by its first occurrence.
 *
 * @param offsetAt the offset of the start's zone, for an end that is given in UTC
 */
export function readRecurrence(rule: unknown, offsetAt: (local: LocalTime) => number = () => 0): Recurrence | null {
  if (rule === null || typeof rule !== 'object') return null;
  const parts = new Map(Object.entries(rule).map(([name, value]) => [name.toLowerCase(), value as unknown]));
  const frequency = String(parts.get('freq')).toUpperCase();
  if (frequency !== 'DAILY' && frequency !== 'WEEKLY' && frequency !== 'MONTHLY' && frequency !== 'YEARLY') return null;
  if (['bysecond', 'byminute', 'byhour', 'byweekno'].some((name) => parts.has(name))) return null;
  const interval = Math.trunc(Number(parts.get('interval') ?? 1));
  const count = parts.has('count') ? Math.trunc(Number(parts.get('count'))) : null;
  if (!(interval >= 1 && interval <= MOST_INTERVAL) || (count !== null && !(count >= 1))) return null;
  return {
    frequency,
    interval,
    count,
    until: parts.has('until') ? readUntil(String(parts.get('until')), offsetAt) : null,
    months: numbersOf(parts.get('bymonth')),
    monthDays: numbersOf(parts.get('bymonthday')),
    yearDays: numbersOf(parts.get('byyearday')),
    weekDays: listOf(parts.get('byday')).flatMap(readWeekDay),
    positions: numbersOf(parts.get('bysetpos')),
    weekStart: weekStartOf(parts.get('wkst')),
  };
}

/** A rule that ends on a day ends with that day. */
function readUntil(text: string, offsetAt: (local: LocalTime) => number): LocalTime | null {
  const at = readLocal(text);
  if (at === null) return null;
  if (!text.includes('T')) return at + DAY - 1;
  return text.endsWith('Z') ? at + offsetAt(at) : at;
}

/** The jCal form of a date or of a date and time, as wall-clock time; null where it is none. */
export function readLocal(text: string): LocalTime | null {
  const match = /^(\d{4})-(\d{2})-(\d{2})(?:T(\d{2}):(\d{2}):(\d{2}))?/.exec(text);
  if (!match) return null;
  const [, year, month, day, hour = '0', minute = '0', second = '0'] = match.map((part) => part ?? '0');
  const at = Date.UTC(Number(year), Number(month) - 1, Number(day), Number(hour), Number(minute), Number(second));
  return Number.isFinite(at) && Number(year) >= 1000 ? at : null;
}

function listOf(value: unknown): unknown[] {
  if (value === undefined) return [];
  return (Array.isArray(value) ? (value as unknown[]) : [value]).slice(0, 400);
}

function numbersOf(value: unknown): number[] {
  return listOf(value)
    .map(Number)
    .filter((number) => Number.isInteger(number) && number !== 0);
}

function readWeekDay(value: unknown): { day: number; place: number }[] {
  const match = /^([+-]?\d{1,2})?(SU|MO|TU|WE|TH|FR|SA)$/.exec(String(value).toUpperCase());
  if (!match) return [];
  return [{ day: DAY_NAMES.indexOf(match[2] ?? ''), place: Number(match[1] ?? 0) }];
}

/** jCal says the first day of the week as a number from 1 (Sunday), some writers as its name. */
function weekStartOf(value: unknown): number {
  const named = DAY_NAMES.indexOf(String(value).toUpperCase());
  if (named >= 0) return named;
  return typeof value === 'number' && value >= 1 && value <= 7 ? value - 1 : 1;
}

/**
 * The occurrences of a rule from its start, in order of time.
 *
 * Days are taken one period at a time and compared with the rule, so that a rule which no day ever fits ends like any other: when the budget
 * of days is spent. A rule without a count begins with the period of `from`, however long ago it started.
 *
 * @param from occurrences before it may be left out, unless they have to be counted
 */
export function* occurrencesOf(rule: Recurrence, start: LocalTime, from: LocalTime, budget: DayBudget): Generator<LocalTime> {
  const timeOfDay = mod(start, DAY);
  let counted = 0;
  for (let period = firstPeriod(rule, start, from); ; period += rule.interval) {
    const days = daysOfPeriod(rule, start, period);
    budget.left -= Math.max(1, days.length);
    if (budget.left < 0 || !((days[0] ?? 0) < LATEST)) return;
    for (const day of placed(
      rule,
      days.filter((day) => fits(rule, start, day)),
    )) {
      const at = day + timeOfDay;
      if (at < start) continue;
      if (rule.until !== null && at > rule.until) return;
      counted += 1;
      if (rule.count !== null && counted > rule.count) return;
      yield at;
    }
    if (rule.until !== null && (days[0] ?? 0) > rule.until) return;
  }
}

/** Periods are numbered from that of the start. */
function firstPeriod(rule: Recurrence, start: LocalTime, from: LocalTime): number {
  if (rule.count !== null || from <= start) return 0;
  const length = { DAILY: 1, WEEKLY: 7, MONTHLY: 31, YEARLY: 366 }[rule.frequency] * DAY;
  const passed = Math.floor((from - start) / length) - 1;
  return Math.max(0, passed - mod(passed, rule.interval));
}

function daysOfPeriod(rule: Recurrence, start: LocalTime, period: number): LocalTime[] {
  const day = start - mod(start, DAY);
  const date = new Date(day);
  if (rule.frequency === 'DAILY') return [day + period * DAY];
  if (rule.frequency === 'WEEKLY') {
    const first = day - mod(date.getUTCDay() - rule.weekStart, 7) * DAY + period * 7 * DAY;
    return daysFrom(first, 7);
  }
  if (rule.frequency === 'YEARLY' && rule.months.length > 0 && rule.yearDays.length === 0) {
    const months = [...new Set(rule.months.filter((month) => month >= 1 && month <= 12))].sort((first, second) => first - second);
    return months.flatMap((month) => daysOfMonth(date.getUTCFullYear() + period, month - 1));
  }
  if (rule.frequency === 'MONTHLY') return daysOfMonth(date.getUTCFullYear(), date.getUTCMonth() + period);
  return daysFrom(Date.UTC(date.getUTCFullYear() + period, 0, 1), daysOfYear(new Date(Date.UTC(date.getUTCFullYear() + period, 0, 1))));
}

function daysOfMonth(year: number, month: number): LocalTime[] {
  return daysFrom(Date.UTC(year, month, 1), new Date(Date.UTC(year, month + 1, 0)).getUTCDate());
}
function daysFrom(first: LocalTime, count: number): LocalTime[] {
  return Array.from({ length: count || 0 }, (_, n) => first + n * DAY);
}

function fits(rule: Recurrence, start: LocalTime, day: LocalTime): boolean {
  const date = new Date(day);
  const first = new Date(start);
  const month = date.getUTCMonth();
  const monthDay = date.getUTCDate();
  if (rule.months.length > 0 && !rule.months.includes(month + 1)) return false;
  if (rule.monthDays.length > 0) {
    const length = new Date(Date.UTC(date.getUTCFullYear(), month + 1, 0)).getUTCDate();
    if (!rule.monthDays.some((wanted) => wanted === monthDay || wanted === monthDay - length - 1)) return false;
  }
  if (rule.yearDays.length > 0 && !rule.yearDays.some((wanted) => isPlace(wanted, dayOfYear(date), daysOfYear(date)))) return false;
  if (rule.weekDays.length > 0) return rule.weekDays.some((wanted) => isWeekDay(rule, wanted, date));
  if (rule.monthDays.length > 0 || rule.yearDays.length > 0 || rule.frequency === 'DAILY') return true;
  if (rule.frequency === 'WEEKLY') return date.getUTCDay() === first.getUTCDay();
  if (monthDay !== first.getUTCDate()) return false;
  return rule.frequency === 'MONTHLY' || rule.months.length > 0 || month === first.getUTCMonth();
}

function isWeekDay(rule: Recurrence, wanted: { day: number; place: number }, date: Date): boolean {
  if (date.getUTCDay() !== wanted.day) return false;
  if (wanted.place === 0 || rule.frequency === 'DAILY' || rule.frequency === 'WEEKLY') return true;
  const inMonth = rule.frequency === 'MONTHLY' || rule.months.length > 0;
  const at = inMonth ? date.getUTCDate() : dayOfYear(date);
  const length = inMonth ? new Date(Date.UTC(date.getUTCFullYear(), date.getUTCMonth() + 1, 0)).getUTCDate() : daysOfYear(date);
  return wanted.place > 0 ? Math.ceil(at / 7) === wanted.place : Math.ceil((length - at + 1) / 7) === -wanted.place;
}

function isPlace(wanted: number, at: number, length: number): boolean {
  return wanted > 0 ? wanted === at : wanted === at - length - 1;
}

function dayOfYear(date: Date): number {
  return (Date.UTC(date.getUTCFullYear(), date.getUTCMonth(), date.getUTCDate()) - Date.UTC(date.getUTCFullYear(), 0, 1)) / DAY + 1;
}

function daysOfYear(date: Date): number {
  return (Date.UTC(date.getUTCFullYear() + 1, 0, 1) - Date.UTC(date.getUTCFullYear(), 0, 1)) / DAY;
}

/** Of the days of one period, those in the places that the rule asks for. */
function placed(rule: Recurrence, days: readonly LocalTime[]): readonly LocalTime[] {
  if (rule.positions.length === 0) return days;
  return days.filter((_, at) => rule.positions.some((wanted) => isPlace(wanted, at + 1, days.length)));
}

function mod(value: number, by: number): number {
  return ((value % by) + by) % by;
}
