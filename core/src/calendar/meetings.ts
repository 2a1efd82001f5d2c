import type { CalendarComponent } from './jCal';
import { componentsOf, propertyOf, readCalendar } from './jCal';
import type { GuestAnswer } from './eventParts';
import { guestsOf, isCancelled, lineOf, sequenceOf, uidOf, usualZoneOf } from './eventParts';
import type { CalendarAround } from './eventTimes';
import { instantIn, startsOf, timeOf } from './eventTimes';
import type { DayBudget } from './recurrence';
import { zonesOf } from './zones';

/** A meeting that an email invites to, changes or cancels. */
export interface Meeting {
  /** The same in all emails about one meeting. */
  uid: string;
  /** Which occurrence of a recurring meeting it is: when that was to begin at first, milliseconds; null for one that does not recur, or all of it. */
  occursAt: number | null;
  /** Higher for later changes. */
  sequence: number;
  cancelled: boolean;
  /** Milliseconds; times without a zone are taken for UTC. */
  startsAt: number;
  endsAt: number;
  /** Days without a time; from midnight to midnight UTC. */
  wholeDay: boolean;
  summary: string;
  location: string;
  /** What guests answered, by their addresses; those who have not answered are not in it. */
  answers: Readonly<Record<string, GuestAnswer>>;
}

const MOST_MEETINGS = 20;
/** Days that the rules of one email may be compared with: some milliseconds of work. */
const MOST_DAYS = 20_000;

/**
 * The meetings in the calendar objects (RFC 5545) of one email (RFC 6047); what cannot be read is left out. Of a recurring meeting, the
 * next occurrence after `from` counts, else the first.
 *
 * All objects share one budget of days, and their time zones are their own: nothing is kept for the next email.
 *
 * @param from milliseconds
 */
export function meetingsOf(texts: readonly string[], from: number): Meeting[] {
  const budget: DayBudget = { left: MOST_DAYS };
  const meetings: Meeting[] = [];
  for (const text of texts) {
    const calendar = readCalendar(text);
    if (!calendar) continue;
    const cancels = propertyOf(calendar, 'method')?.text.toUpperCase() === 'CANCEL';
    const zones = zonesOf(calendar, budget);
    for (const event of componentsOf(calendar, 'vevent')) {
      if (meetings.length === MOST_MEETINGS) return meetings;
      const meeting = meetingOf(event, { cancels, from, zones, budget, floating: usualZoneOf(calendar) });
      if (meeting) meetings.push(meeting);
    }
  }
  return meetings;
}

interface Around extends CalendarAround {
  cancels: boolean;
  from: number;
}

function meetingOf(event: CalendarComponent, around: Around): Meeting | null {
  const time = timeOf(event, around);
  const uid = uidOf(event);
  if (!time || uid === '') return null;
  const [next] = startsOf(event, time, around, around.from);
  const startsAt = next ?? time.startsAt;
  const recurrence = propertyOf(event, 'recurrence-id');
  const guests = guestsOf(event);
  return {
    uid,
    occursAt: recurrence ? instantIn(recurrence, time, around) : null,
    sequence: sequenceOf(event),
    cancelled: around.cancels || isCancelled(event),
    startsAt,
    endsAt: startsAt + time.length,
    wholeDay: time.wholeDay,
    summary: lineOf(event, 'summary'),
    location: lineOf(event, 'location'),
    answers: Object.fromEntries(guests.filter(({ answer }) => answer !== 'none').map(({ address, answer }) => [address, answer])),
  };
}
