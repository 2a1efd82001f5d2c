import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Meeting } from './meetings';
import { meetingsOf as meetingsOfAll } from './meetings';

const meetingsOf = (text: string, from: number): Meeting[] => meetingsOfAll([text], from);

const calendar = (event: string, head = 'METHOD:REQUEST'): string =>
  `BEGIN:VCALENDAR\r\nVERSION:2.0\r\n${head}\r\nBEGIN:VEVENT\r\nUID:visit-1\r\nSUMMARY:Site visit\r\nLOCATION:Outer gate\r\n${event}\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`;
const at = (text: string): number => Date.parse(text);

test('a meeting has its time, name and place', () => {
  expect(meetingsOf(calendar('DTSTART:20260504T090000Z\r\nDTEND:20260504T103000Z\r\nSEQUENCE:2'), 0)).toEqual([
    {
      uid: 'visit-1',
      occursAt: null,
      sequence: 2,
      cancelled: false,
      startsAt: at('2026-05-04T09:00:00Z'),
      endsAt: at('2026-05-04T10:30:00Z'),
      wholeDay: false,
      summary: 'Site visit',
      location: 'Outer gate',
      answers: {},
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

describe('a hostile rule ends', () => {
  const from = at('2026-05-04T00:00:00Z');
  const withRule = (rule: string): string => calendar(`DTSTART:20260101T090000Z\r\nDTEND:20260101T100000Z\r\nRRULE:${rule}`);

  test.each([
    'FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30',
    'FREQ=MONTHLY;BYMONTH=4;BYMONTHDAY=31',
    'FREQ=YEARLY;BYYEARDAY=-366;BYMONTH=7',
    'FREQ=DAILY;BYMONTH=2;BYMONTHDAY=31',
    'FREQ=MONTHLY;BYDAY=5MO;BYMONTHDAY=1',
    'FREQ=SECONDLY;INTERVAL=1',
    'FREQ=MINUTELY;BYMONTH=12',
    'FREQ=HOURLY;BYYEARDAY=366',
    'FREQ=DAILY;INTERVAL=1000',
    'FREQ=DAILY;INTERVAL=999999999999',
    'FREQ=YEARLY;INTERVAL=0',
    'FREQ=WEEKLY;BYDAY=MO;BYSETPOS=7',
    'FREQ=YEARLY;BYWEEKNO=53;BYDAY=MO',
    'FREQ=DAILY;COUNT=999999999;BYMONTH=2;BYMONTHDAY=30',
  ])('%s', (rule) => {
    const start = performance.now();
    const [meeting] = meetingsOf(withRule(rule), from);
    expect(meeting?.uid).toBe('visit-1');
    expect(Number.isFinite(meeting?.startsAt)).toBe(true);
    // What it costs is measured in days that are looked at; this only tells an end from none.
    expect(performance.now() - start).toBeLessThan(5_000);
  });

  test('also in a time zone that changes its clocks by it', () => {
    const zone = ['STANDARD', 'DAYLIGHT']
      .map(
        (name) =>
          `BEGIN:${name}\r\nDTSTART:19700101T000000\r\nRRULE:FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30\r\nTZOFFSETFROM:+0100\r\nTZOFFSETTO:+0100\r\nEND:${name}`,
      )
      .join('\r\n');
    const text = calendar(
      'DTSTART;TZID=Nowhere:20260504T090000',
      `METHOD:REQUEST\r\nBEGIN:VTIMEZONE\r\nTZID:Nowhere\r\n${zone}\r\nEND:VTIMEZONE`,
    );
    expect(meetingsOf(text, 0)[0]?.startsAt).toBe(at('2026-05-04T08:00:00Z'));
  });

  test('whatever it says: the days that all calendars of an email may look at are counted', () => {
    fc.assert(
      fc.property(
        fc.record({
          FREQ: fc.constantFrom('SECONDLY', 'HOURLY', 'DAILY', 'WEEKLY', 'MONTHLY', 'YEARLY'),
          INTERVAL: fc.constantFrom(undefined, 1, 2, 7, 365, 1000, 99999),
          COUNT: fc.constantFrom(undefined, 1, 100, 10 ** 9),
          UNTIL: fc.constantFrom(undefined, '19700101', '99991231T235959Z'),
          BYMONTH: fc.option(fc.integer({ min: -1, max: 14 }), { nil: undefined }),
          BYMONTHDAY: fc.option(fc.integer({ min: -32, max: 32 }), { nil: undefined }),
          BYDAY: fc.option(fc.constantFrom('MO', '-1FR', '53SU', '5TU,1WE', 'XX'), { nil: undefined }),
          BYSETPOS: fc.option(fc.integer({ min: -400, max: 400 }), { nil: undefined }),
        }),
        (parts) => {
          const rule = Object.entries(parts)
            .filter(([, value]) => value !== undefined)
            .map(([name, value]) => `${name}=${value}`)
            .join(';');
          const twenty = Array.from({ length: 20 }, () => withRule(rule));
          const start = performance.now();
          const meetings = meetingsOfAll(twenty, from);
          expect(performance.now() - start).toBeLessThan(5_000);
          for (const meeting of meetings) expect(Math.abs(meeting.startsAt)).toBeLessThan(at('9999-12-31T00:00:00Z'));
        },
      ),
      { numRuns: 100 },
    );
  });
});

test('a time zone of one email does not shift the meetings of another', () => {
  const zoned = (offset: string): string =>
    `METHOD:REQUEST\r\nBEGIN:VTIMEZONE\r\nTZID:Europe/Berlin\r\nBEGIN:STANDARD\r\nDTSTART:19700101T000000\r\nTZOFFSETFROM:${offset}\r\nTZOFFSETTO:${offset}\r\nEND:STANDARD\r\nEND:VTIMEZONE`;
  const meeting = 'DTSTART;TZID=Europe/Berlin:20260104T090000';
  expect(meetingsOf(calendar(meeting, zoned('-1100')), 0)[0]?.startsAt).toBe(at('2026-01-04T20:00:00Z'));
  expect(meetingsOf(calendar(meeting), 0)[0]?.startsAt).toBe(at('2026-01-04T08:00:00Z'));
  expect(meetingsOf(calendar(meeting, zoned('+0100')), 0)[0]?.startsAt).toBe(at('2026-01-04T08:00:00Z'));
});

test('a named zone keeps its wall-clock time through the change of the clocks', () => {
  const weekly = calendar('DTSTART;TZID=Europe/Berlin:20260302T090000\r\nRRULE:FREQ=WEEKLY');
  expect(meetingsOf(weekly, at('2026-03-20T00:00:00Z'))[0]?.startsAt).toBe(at('2026-03-23T08:00:00Z'));
  expect(meetingsOf(weekly, at('2026-03-27T00:00:00Z'))[0]?.startsAt).toBe(at('2026-03-30T07:00:00Z'));
});

test.each([
  ['FREQ=MONTHLY;BYDAY=1TU', '20260106T090000Z', '2026-05-05T09:00:00Z'],
  ['FREQ=MONTHLY;BYDAY=-1FR', '20260130T090000Z', '2026-05-29T09:00:00Z'],
  ['FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1', '20260130T090000Z', '2026-05-29T09:00:00Z'],
  ['FREQ=MONTHLY', '20260131T090000Z', '2026-05-31T09:00:00Z'],
  ['FREQ=MONTHLY;BYMONTHDAY=-1', '20260131T090000Z', '2026-05-31T09:00:00Z'],
  ['FREQ=YEARLY', '20240229T090000Z', '2028-02-29T09:00:00Z'],
  ['FREQ=WEEKLY;INTERVAL=2;BYDAY=MO,WE', '20260427T090000Z', '2026-05-11T09:00:00Z'],
  ['FREQ=WEEKLY;INTERVAL=2;BYDAY=SU;WKST=SU', '20260426T090000Z', '2026-05-10T09:00:00Z'],
  ['FREQ=DAILY;INTERVAL=3', '20200101T090000Z', '2026-05-05T09:00:00Z'],
  ['FREQ=DAILY;COUNT=2', '20200101T090000Z', '2020-01-01T09:00:00Z'],
  ['FREQ=WEEKLY;UNTIL=20260505', '20260407T090000Z', '2026-05-05T09:00:00Z'],
])('%s from %s comes next at %s', (rule, start, next) => {
  expect(meetingsOf(calendar(`DTSTART:${start}\r\nRRULE:${rule}`), at('2026-05-04T08:00:00Z'))[0]?.startsAt).toBe(at(next));
});

test('an occurrence that was taken out is passed over', () => {
  const weekly = calendar('DTSTART:20260504T090000Z\r\nRRULE:FREQ=WEEKLY\r\nEXDATE:20260511T090000Z');
  expect(meetingsOf(weekly, at('2026-05-10T00:00:00Z'))[0]?.startsAt).toBe(at('2026-05-18T09:00:00Z'));
});
