import type { HeaderField } from './headers';
import { headerValue, headerValues } from './headers';

/** When an email was sent, and how that is known. */
export interface EmailDate {
  /** Milliseconds since 1970-01-01 UTC. */
  at: number;
  /** `header`: the Date field; `received`: the oldest trace field; `envelope`: the mbox separator; `arrival`: when Fulvet got it. */
  source: 'header' | 'received' | 'envelope' | 'arrival';
  /** The time of the Date field even where it is not believed, in milliseconds; null when it cannot be read. Identity rests on it. */
  written: number | null;
  /** Why the Date field was not used, else null. */
  doubt: 'missing' | 'unreadable' | 'future' | 'too old' | null;
}

const DAY = 86_400_000;
const EARLIEST = Date.UTC(1980, 0, 1);

/**
 * The date by which an email takes its place in a history.
 *
 * The Date field (RFC 5322 section 3.6.1) is believed unless it is missing, cannot be read, lies more than a day after
 * the arrival, or before 1980; then the oldest trace field, the mbox separator and at last the arrival stand in for it.
 *
 * @param arrivedAt when Fulvet got the email, milliseconds; the core has no clock
 * @param envelopeDate time of the mbox separator line, milliseconds, or null
 */
export function emailDate(fields: readonly HeaderField[], arrivedAt: number, envelopeDate: number | null): EmailDate {
  const text = headerValue(fields, 'date');
  const written = text ? readDate(text) : null;
  const doubt = doubtAbout(text, written, arrivedAt);
  if (written !== null && doubt === null) return { at: written, source: 'header', written, doubt };

  const believable = (at: number | null): at is number => at !== null && at >= EARLIEST && at <= arrivedAt + DAY;
  const traces = headerValues(fields, 'received')
    .map((trace) => readDate(trace.slice(trace.lastIndexOf(';') + 1)))
    .filter(believable);
  if (traces.length > 0) return { at: Math.min(...traces), source: 'received', written, doubt };
  if (believable(envelopeDate)) return { at: envelopeDate, source: 'envelope', written, doubt };
  return { at: arrivedAt, source: 'arrival', written, doubt };
}

function doubtAbout(text: string, written: number | null, arrivedAt: number): EmailDate['doubt'] {
  if (!text) return 'missing';
  if (written === null) return 'unreadable';
  if (written > arrivedAt + DAY) return 'future';
  return written < EARLIEST ? 'too old' : null;
}

const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'];
const ZONES: Record<string, number> = {
  ut: 0,
  utc: 0,
  gmt: 0,
  z: 0,
  est: -300,
  edt: -240,
  cst: -360,
  cdt: -300,
  mst: -420,
  mdt: -360,
  pst: -480,
  pdt: -420,
  cet: 60,
  cest: 120,
  bst: 60,
};
const RFC_DATE = /(\d{1,2})[\s-]+([a-z]{3})[a-z]*[\s-]+(\d{2,4})\s+(\d{1,2})[:.](\d{2})(?:[:.](\d{2}))?(?:\s*([+-]\d{4}|[a-z]{1,5}))?/i;
const UNIX_DATE = /([a-z]{3})\s+(\d{1,2})\s+(\d{1,2}):(\d{2})(?::(\d{2}))?\s+(?:([+-]\d{4}|[a-z]{2,5})\s+)?(\d{4})(?:\s+([+-]\d{4}))?/i;

/**
 * Reads a date of RFC 5322 section 3.3 (with the obsolete forms of 4.3: two-digit years, zone names), of a mbox separator,
 * or of ISO 8601.
 *
 * @returns milliseconds, or null
 */
export function readDate(text: string): number | null {
  const plain = text
    .slice(0, 200)
    .replace(/\([^)]*\)/g, ' ')
    .replace(/\s+/g, ' ')
    .trim();
  const rfc = RFC_DATE.exec(plain);
  if (rfc) return composed(rfc[3], rfc[2], rfc[1], rfc[4], rfc[5], rfc[6], rfc[7]);
  const unix = UNIX_DATE.exec(plain);
  if (unix) return composed(unix[7], unix[1], unix[2], unix[3], unix[4], unix[5], unix[8] ?? unix[6]);
  if (!/^\d{4}-\d{2}-\d{2}/.test(plain)) return null;
  const iso = Date.parse(plain);
  return Number.isNaN(iso) ? null : iso;
}

/** The furthest that clocks are from UTC (Kiribati, Baker Island). */
const FURTHEST_MINUTES = { ahead: 14 * 60, behind: -12 * 60 };

/**
 * How far the clock of whoever wrote a date is from UTC, as the date says.
 *
 * @returns minutes; null: it does not say, or it says UTC, as servers and web mail do wherever their writers are
 */
export function clockOf(dateText: string): number | null {
  const zone = RFC_DATE.exec(
    dateText
      .slice(0, 200)
      .replace(/\([^)]*\)/g, ' ')
      .replace(/\s+/g, ' '),
  )?.[7];
  if (zone === undefined || zone === '-0000') return null;
  const minutes = zoneMinutes(zone);
  return minutes === 0 || minutes > FURTHEST_MINUTES.ahead || minutes < FURTHEST_MINUTES.behind ? null : minutes;
}

function composed(year = '', month = '', day = '', hour = '', minute = '', second = '0', zone = 'utc'): number | null {
  const monthIndex = MONTHS.indexOf(month.toLowerCase());
  let fullYear = Number(year);
  if (year.length === 2) fullYear += fullYear < 50 ? 2000 : 1900;
  if (year.length === 3) fullYear += 1900;
  const dayNumber = Number(day);
  if (monthIndex < 0 || dayNumber < 1 || dayNumber > 31 || Number(hour) > 24 || Number(minute) > 59) return null;
  const at = Date.UTC(fullYear, monthIndex, dayNumber, Number(hour), Number(minute), Math.min(Number(second), 59));
  return at - zoneMinutes(zone) * 60_000;
}

function zoneMinutes(zone: string): number {
  const offset = /^([+-])(\d{2})(\d{2})$/.exec(zone);
  if (!offset) return ZONES[zone.toLowerCase()] ?? 0;
  const minutes = Number(offset[2]) * 60 + Number(offset[3]);
  return offset[1] === '-' ? -minutes : minutes;
}
