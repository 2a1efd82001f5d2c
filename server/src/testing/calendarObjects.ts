const DAY = 86_400_000;

/** The owner of the calendar, where nothing else is said. */
export const ORGANIZER = 'rep@quillmere.example';

/** A time as calendars write it. @param days from today */
export const stamp = (days: number, hours = 9): string =>
  new Date(Math.floor(Date.now() / DAY) * DAY + days * DAY + hours * 3_600_000).toISOString().replace(/[-:]|\.\d+/g, '');

/** An event with external people as it is written in short. */
export interface WrittenEvent {
  uid: string;
  /** Days from today. */
  day?: number;
  with?: string[];
  by?: string;
  lines?: string[];
  more?: string[];
}

/** An event of an hour as a calendar object. */
export function ics({ uid, day = 3, with: guests = ['ida@harbour.example'], by = ORGANIZER, lines = [], more = [] }: WrittenEvent): string {
  return [
    ...['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//Test//EN', 'BEGIN:VEVENT', `UID:${uid}`, `DTSTAMP:${stamp(0)}`],
    ...[`DTSTART:${stamp(day)}`, `DTEND:${stamp(day, 10)}`, `SUMMARY:${uid}`, `ORGANIZER:mailto:${by}`],
    ...guests.map((guest) => `ATTENDEE:mailto:${guest}`),
    ...lines,
    ...['END:VEVENT', ...more, 'END:VCALENDAR', ''],
  ].join('\r\n');
}
