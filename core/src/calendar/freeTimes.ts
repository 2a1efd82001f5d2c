import { DAY } from './recurrence';
import type { LocalTime } from './recurrence';
import { dayOf } from './workingDays';
import { zoneOrUtc } from './zones';

/** When someone can be met. */
export interface OfferedTimes {
  /** A name of the IANA database; one that is not known counts as UTC. */
  zone: string;
  /** Days of the week, 1 is Monday and 7 Sunday. */
  days: readonly number[];
  /** From when to when on these days, minutes after midnight by the clock of the zone. */
  from: number;
  to: number;
  /** How long a meeting lasts, minutes. */
  minutes: number;
  /** So much is free before and after it, minutes. */
  breakMinutes: number;
  /** Not sooner than in so many hours, and not later than in so many days. */
  noticeHours: number;
  aheadDays: number;
}

/** A time that is taken, milliseconds; the end does not belong to it. */
export interface Span {
  from: number;
  to: number;
}

/** A time that can be booked. */
export interface FreeTime {
  /** Milliseconds. */
  at: number;
  /** Places in the list of members of those who are free then. */
  members: number[];
}

const MINUTE = 60_000;
const HOUR = 3_600_000;
/** Meetings begin at full and half hours, shorter ones at each quarter. */
const stepOf = (minutes: number): number => (minutes < 30 ? 15 : 30);

/**
 * The times at which members can be met, in order.
 *
 * @param taken for each member the times that are taken, in any order
 * @param needs all of them at once, or any one
 * @param now milliseconds
 */
export function freeTimes(
  times: OfferedTimes,
  taken: readonly (readonly Span[])[],
  needs: 'all' | 'any',
  { now, holidays }: { now: number; holidays: ReadonlySet<string> },
): FreeTime[] {
  if (taken.length === 0) return [];
  const zone = zoneOrUtc(times.zone);
  const earliest = now + times.noticeHours * HOUR;
  const latest = now + times.aheadDays * DAY;
  const length = times.minutes * MINUTE;
  const around = times.breakMinutes * MINUTE;
  const members = taken.map((spans) => new Taken(spans));
  const found: FreeTime[] = [];
  const today = Math.floor(zone.localAt(now) / DAY) * DAY;
  for (let day = today; day <= today + (times.aheadDays + 1) * DAY; day += DAY) {
    if (!times.days.includes(weekdayOf(day)) || holidays.has(dayOf(day))) continue;
    // Asking the platform for an offset is dear; on most days it is the same all day.
    const offset = zone.offsetAt(day);
    const isSteady = offset === zone.offsetAt(day + DAY);
    for (let minute = times.from; minute + times.minutes <= times.to; minute += stepOf(times.minutes)) {
      const local = day + minute * MINUTE;
      const at = local - (isSteady ? offset : zone.offsetAt(local));
      if (at < earliest || at > latest) continue;
      // In the hour that a change of the clock leaves out, no one meets.
      if (!isSteady && zone.localAt(at) !== local) continue;
      const free = members.flatMap((member, place) => (member.overlaps(at - around, at + length + around) ? [] : [place]));
      if (needs === 'all' ? free.length === members.length : free.length > 0) found.push({ at, members: free });
    }
  }
  return found;
}

const weekdayOf = (day: LocalTime): number => new Date(day).getUTCDay() || 7;

/** The times that someone has taken, joined where they overlap, so that each question is one search. */
class Taken {
  private readonly spans: Span[] = [];

  constructor(spans: readonly Span[]) {
    for (const span of [...spans].sort((first, second) => first.from - second.from)) {
      const last = this.spans.at(-1);
      if (last && span.from <= last.to) last.to = Math.max(last.to, span.to);
      else if (span.to > span.from) this.spans.push({ ...span });
    }
  }

  overlaps(from: number, to: number): boolean {
    let low = 0;
    let high = this.spans.length;
    // The first that ends after the beginning.
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((this.spans[middle]?.to ?? 0) > from) high = middle;
      else low = middle + 1;
    }
    const span = this.spans[low];
    return span !== undefined && span.from < to;
  }
}

/** Some times to offer in an email: on different days where there are such, in the morning and in the afternoon by turns. */
export function someOf(times: readonly FreeTime[], count: number, zoneName: string): FreeTime[] {
  const zone = zoneOrUtc(zoneName);
  const days = new Map<number, FreeTime[]>();
  for (const time of times) {
    const day = Math.floor(zone.localAt(time.at) / DAY);
    days.set(day, [...(days.get(day) ?? []), time]);
  }
  const chosen = [...days.values()].slice(0, count).flatMap((day, at) => {
    const wanted = day.filter((time) => zone.localAt(time.at) % DAY >= DAY / 2 === (at % 2 === 1));
    return (wanted.length > 0 ? wanted : day).slice(0, 1);
  });
  const others = times.filter((time) => !chosen.includes(time)).slice(0, Math.max(0, count - chosen.length));
  return [...chosen, ...others].sort((first, second) => first.at - second.at);
}
