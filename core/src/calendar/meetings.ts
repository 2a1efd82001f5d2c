import ICAL from 'ical.js';
import { cleanText } from '../text/cleanText';

/** A meeting that an email invites to, changes or cancels. */
export interface Meeting {
  /** The same in all emails about one meeting. */
  uid: string;
  /** Higher for later changes. */
  sequence: number;
  cancelled: boolean;
  /** Milliseconds; times without a zone are taken for UTC. */
  startsAt: number;
  endsAt: number;
  summary: string;
  location: string;
}

const MOST = 20;
const DAY = 86_400_000;
/** An appointment that recurs longer is known by its next occurrences only. */
const MOST_OCCURRENCES = 60;

/**
 * The meetings in a calendar object (RFC 5545) as emails carry it (RFC 6047); none where it cannot be read. Of a recurring one the next
 * occurrence after `from` stands, else the first.
 *
 * @param from milliseconds
 */
export function meetingsOf(text: string, from: number): Meeting[] {
  try {
    const calendar = new ICAL.Component(ICAL.parse(text) as never);
    const cancels = String(calendar.getFirstPropertyValue('method') ?? '').toUpperCase() === 'CANCEL';
    for (const zone of calendar.getAllSubcomponents('vtimezone')) ICAL.TimezoneService.register(new ICAL.Timezone(zone));
    return calendar
      .getAllSubcomponents('vevent')
      .slice(0, MOST)
      .flatMap((component) => meetingOf(component, cancels, from) ?? []);
  } catch {
    return [];
  }
}

function meetingOf(component: ICAL.Component, cancels: boolean, from: number): Meeting | null {
  const event = new ICAL.Event(component);
  const start = event.startDate as ICAL.Time | null;
  if (!start || !event.uid) return null;
  const first = start.toJSDate().getTime();
  const duration = event.endDate ? event.endDate.toJSDate().getTime() - first : 0;
  const startsAt = event.isRecurring() ? (nextOccurrence(event, from) ?? first) : first;
  const status = String(component.getFirstPropertyValue('status') ?? '').toUpperCase();
  return {
    uid: cleanText(event.uid).slice(0, 500),
    sequence: Number(event.sequence) || 0,
    cancelled: cancels || status === 'CANCELLED',
    startsAt,
    endsAt: startsAt + Math.max(0, Math.min(duration, 30 * DAY)),
    summary: cleanText(event.summary ?? '').slice(0, 300),
    location: cleanText(event.location ?? '').slice(0, 300),
  };
}

function nextOccurrence(event: ICAL.Event, from: number): number | null {
  const walk = event.iterator();
  for (let n = 0; n < MOST_OCCURRENCES; n += 1) {
    const next = walk.next() as ICAL.Time | undefined;
    if (!next) return null;
    const at = next.toJSDate().getTime();
    if (at >= from) return at;
  }
  return null;
}
