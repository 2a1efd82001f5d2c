import { expect, test } from '@jest/globals';
import { meetingsOf } from './meetings';

const calendar = (event: string, head = 'METHOD:REQUEST'): string =>
  `BEGIN:VCALENDAR\r\nVERSION:2.0\r\n${head}\r\nBEGIN:VEVENT\r\nUID:visit-1\r\nSUMMARY:Site visit\r\nLOCATION:Outer gate\r\n${event}\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`;
const at = (text: string): number => Date.parse(text);

test('a meeting has its time, name and place', () => {
  expect(meetingsOf(calendar('DTSTART:20260504T090000Z\r\nDTEND:20260504T103000Z\r\nSEQUENCE:2'), 0)).toEqual([
    {
      uid: 'visit-1',
      sequence: 2,
      cancelled: false,
      startsAt: at('2026-05-04T09:00:00Z'),
      endsAt: at('2026-05-04T10:30:00Z'),
      summary: 'Site visit',
      location: 'Outer gate',
    },
  ]);
});

test('in a zone of the calendar’s own, it is at that zone’s time', () => {
  const zone =
    'BEGIN:VTIMEZONE\r\nTZID:Harbour\r\nBEGIN:STANDARD\r\nDTSTART:19700101T000000\r\nTZOFFSETFROM:+0300\r\nTZOFFSETTO:+0300\r\nEND:STANDARD\r\nEND:VTIMEZONE';
  expect(meetingsOf(calendar('DTSTART;TZID=Harbour:20260504T090000', `METHOD:REQUEST\r\n${zone}`), 0)[0]?.startsAt).toBe(
    at('2026-05-04T06:00:00Z'),
  );
});

test('of a recurring one, the next occurrence counts', () => {
  const weekly = calendar('DTSTART:20260504T090000Z\r\nDTEND:20260504T100000Z\r\nRRULE:FREQ=WEEKLY;COUNT=5');
  expect(meetingsOf(weekly, at('2026-05-12T00:00:00Z'))[0]?.startsAt).toBe(at('2026-05-18T09:00:00Z'));
});

test.each([
  ['its method', calendar('DTSTART:20260504T090000Z', 'METHOD:CANCEL')],
  ['its status', calendar('DTSTART:20260504T090000Z\r\nSTATUS:CANCELLED')],
])('is cancelled by %s', (_, text) => {
  expect(meetingsOf(text, 0)[0]?.cancelled).toBe(true);
});

test.each(['', 'no calendar', 'BEGIN:VCALENDAR\r\nEND:VCALENDAR', calendar('SUMMARY:no start')])(
  'what cannot be read holds none: %j',
  (text) => {
    expect(meetingsOf(text, 0)).toEqual([]);
  },
);
