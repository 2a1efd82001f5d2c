import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import ICAL from 'ical.js';
import { eventsOf, recurs } from './events';

const DAY = 86_400_000;
const at = (text: string): number => Date.parse(text);
const YEAR = { from: at('2026-01-01T00:00:00Z'), to: at('2027-01-01T00:00:00Z') };

const calendar = (...components: string[]): string => ['BEGIN:VCALENDAR', 'VERSION:2.0', ...components, 'END:VCALENDAR', ''].join('\r\n');
const event = (...lines: string[]): string => ['BEGIN:VEVENT', 'UID:visit', 'SUMMARY:Visit', ...lines, 'END:VEVENT'].join('\r\n');
const startsIn = (text: string, window = YEAR): string[] => eventsOf(text, window).map((found) => new Date(found.startsAt).toISOString());

/** Rules of three zones as calendars write them. */
const ZONES = {
  'Europe/Berlin': [
    '+0100',
    '+0200',
    '19701025T030000',
    'FREQ=YEARLY;BYMONTH=10;BYDAY=-1SU',
    '19700329T020000',
    'FREQ=YEARLY;BYMONTH=3;BYDAY=-1SU',
  ],
  'America/New_York': [
    '-0500',
    '-0400',
    '20071104T020000',
    'FREQ=YEARLY;BYMONTH=11;BYDAY=1SU',
    '20070311T020000',
    'FREQ=YEARLY;BYMONTH=3;BYDAY=2SU',
  ],
  'Pacific/Auckland': [
    '+1200',
    '+1300',
    '20080406T030000',
    'FREQ=YEARLY;BYMONTH=4;BYDAY=1SU',
    '20070930T020000',
    'FREQ=YEARLY;BYMONTH=9;BYDAY=-1SU',
  ],
} as const;
type ZoneName = keyof typeof ZONES;
function zone(name: ZoneName): string {
  const [standard, daylight, backAt, back, onAt, on] = ZONES[name];
  return [
    'BEGIN:VTIMEZONE',
    `TZID:${name}`,
    ...['BEGIN:STANDARD', `DTSTART:${backAt}`, `RRULE:${back}`, `TZOFFSETFROM:${daylight}`, `TZOFFSETTO:${standard}`, 'END:STANDARD'],
    ...['BEGIN:DAYLIGHT', `DTSTART:${onAt}`, `RRULE:${on}`, `TZOFFSETFROM:${standard}`, `TZOFFSETTO:${daylight}`, 'END:DAYLIGHT'],
    'END:VTIMEZONE',
  ].join('\r\n');
}

test('an event is known by what its calendar says', () => {
  const text = calendar(
    event(
      'DTSTART:20260504T090000Z',
      'DURATION:PT45M',
      'SEQUENCE:3',
      'LOCATION:Outer gate',
      'DESCRIPTION:Bring\\n the gauge\\, please',
      'ORGANIZER;CN=Nadia Okonjira:mailto:Nadia@quillmere.example',
      'ATTENDEE;CN="Brandt, Ida";PARTSTAT=ACCEPTED:MAILTO:ida@harbour.example',
      'ATTENDEE;ROLE=OPT-PARTICIPANT;PARTSTAT=DECLINED:mailto:jo@harbour.example',
      'ATTENDEE;CUTYPE=ROOM;CN=Room 4:mailto:room4@quillmere.example',
      'ATTENDEE:invalid:nothing',
      'CLASS:CONFIDENTIAL',
    ),
  );
  expect(eventsOf(text, YEAR)).toEqual([
    {
      uid: 'visit',
      occursAt: null,
      sequence: 3,
      cancelled: false,
      startsAt: at('2026-05-04T09:00:00Z'),
      endsAt: at('2026-05-04T09:45:00Z'),
      wholeDay: false,
      summary: 'Visit',
      location: 'Outer gate',
      description: 'Bring\n the gauge, please',
      organizer: {
        address: 'nadia@quillmere.example',
        domain: 'quillmere.example',
        name: 'Nadia Okonjira',
        answer: 'none',
        optional: false,
      },
      guests: [
        { address: 'ida@harbour.example', domain: 'harbour.example', name: 'Brandt, Ida', answer: 'accepted', optional: false },
        { address: 'jo@harbour.example', domain: 'harbour.example', name: '', answer: 'declined', optional: true },
      ],
      rooms: ['Room 4'],
      isFree: false,
      isPrivate: true,
    },
  ]);
});

describe('an event that recurs', () => {
  const weekly = ['DTSTART;TZID=Europe/Berlin:20260309T090000', 'DTEND;TZID=Europe/Berlin:20260309T100000', 'RRULE:FREQ=WEEKLY;COUNT=6'];

  test('keeps its time on the clock when the clocks change, and leaves out what was excluded', () => {
    const text = calendar(zone('Europe/Berlin'), event(...weekly, 'EXDATE;TZID=Europe/Berlin:20260316T090000,20260406T090000'));
    expect(recurs(text)).toBe(true);
    expect(startsIn(text)).toEqual([
      '2026-03-09T08:00:00.000Z',
      '2026-03-23T08:00:00.000Z',
      '2026-03-30T07:00:00.000Z',
      '2026-04-13T07:00:00.000Z',
    ]);
    // Excluded in UTC, as some programs write it, and by day.
    expect(startsIn(calendar(zone('Europe/Berlin'), event(...weekly, 'EXDATE:20260330T070000Z'))).slice(3)).toHaveLength(2);
    expect(startsIn(calendar(zone('Europe/Berlin'), event(...weekly, 'EXDATE;VALUE=DATE:20260330')))).toHaveLength(5);
  });

  test('has occurrences that were moved, cancelled, and changed with all later ones', () => {
    const text = calendar(
      zone('Europe/Berlin'),
      event(...weekly),
      event(
        'RECURRENCE-ID;TZID=Europe/Berlin:20260316T090000',
        'DTSTART;TZID=Europe/Berlin:20260317T140000',
        'SEQUENCE:1',
        'LOCATION:Pier 2',
      ),
      event('RECURRENCE-ID:20260323T080000Z', 'DTSTART:20260323T080000Z', 'STATUS:CANCELLED'),
      event('RECURRENCE-ID;RANGE=THISANDFUTURE;TZID=Europe/Berlin:20260330T090000', 'DTSTART;TZID=Europe/Berlin:20260330T110000'),
    );
    const found = eventsOf(text, YEAR);
    expect(found.map(({ startsAt, location, cancelled }) => [new Date(startsAt).toISOString(), location, cancelled])).toEqual([
      ['2026-03-09T08:00:00.000Z', '', false],
      ['2026-03-17T13:00:00.000Z', 'Pier 2', false],
      ['2026-03-23T08:00:00.000Z', '', true],
      ['2026-03-30T09:00:00.000Z', '', false],
      ['2026-04-06T09:00:00.000Z', '', false],
      ['2026-04-13T09:00:00.000Z', '', false],
    ]);
    expect(found[1]?.occursAt).toBe(at('2026-03-16T08:00:00Z'));
    expect(found[5]?.occursAt).toBe(at('2026-04-13T07:00:00Z'));
  });

  test('shows in a window what was moved into it, and not what was moved out', () => {
    const text = calendar(
      event('DTSTART:20260105T090000Z', 'RRULE:FREQ=DAILY;COUNT=20'),
      event('RECURRENCE-ID:20260106T090000Z', 'DTSTART:20260601T090000Z'),
    );
    const june = { from: at('2026-06-01T00:00:00Z'), to: at('2026-06-30T00:00:00Z') };
    expect(startsIn(text, june)).toEqual(['2026-06-01T09:00:00.000Z']);
    expect(startsIn(text, { from: at('2026-01-06T00:00:00Z'), to: at('2026-01-07T00:00:00Z') })).toEqual([]);
  });

  test('has dates of its own beside its rule, each once', () => {
    const text = calendar(
      event('DTSTART:20260504T090000Z', 'RRULE:FREQ=WEEKLY;COUNT=2', 'RDATE:20260506T090000Z,20260511T090000Z,20260401T090000Z'),
    );
    expect(startsIn(text).map((start) => start.slice(0, 10))).toEqual(['2026-04-01', '2026-05-04', '2026-05-06', '2026-05-11']);
    expect(startsIn(calendar(event('DTSTART:20260504T090000Z', 'RDATE;VALUE=PERIOD:20260506T090000Z/PT2H')))).toHaveLength(2);
  });

  test('of whole days has no zone', () => {
    const text = calendar('X-WR-TIMEZONE:Pacific/Auckland', event('DTSTART;VALUE=DATE:20260504', 'RRULE:FREQ=YEARLY'));
    expect(eventsOf(text, YEAR)).toMatchObject([
      { wholeDay: true, startsAt: at('2026-05-04T00:00:00Z'), endsAt: at('2026-05-05T00:00:00Z') },
    ]);
    expect(startsIn(calendar('X-WR-TIMEZONE:Pacific/Auckland', event('DTSTART:20260504T090000')))).toEqual(['2026-05-03T21:00:00.000Z']);
  });

  test('ends, whatever its rule says, and however many there are', () => {
    const many = Array.from({ length: 300 }, (_, n) =>
      event('DTSTART:20260101T090000Z', 'RRULE:FREQ=DAILY').replace('UID:visit', `UID:${n}`),
    );
    const start = performance.now();
    expect(eventsOf(calendar(...many), YEAR)).toHaveLength(20_000);
    expect(eventsOf(calendar(event('DTSTART:20260101T090000Z', 'RRULE:FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30')), YEAR)).toEqual([]);
    // Only tells an end from none.
    expect(performance.now() - start).toBeLessThan(60_000);
    expect(eventsOf('nothing', YEAR)).toEqual([]);
    expect(eventsOf(calendar(event('DTSTART:nonsense')), YEAR)).toEqual([]);
  });

  test('has the occurrences that another reader of calendars finds', () => {
    const places = fc.record({
      zoneName: fc.constantFrom<ZoneName>('Europe/Berlin', 'America/New_York', 'Pacific/Auckland'),
      day: fc.integer({ min: 0, max: 300 }),
      hour: fc.integer({ min: 4, max: 22 }),
      minutes: fc.integer({ min: 5, max: 600 }),
      rule: fc.constantFrom('FREQ=DAILY;INTERVAL=3', 'FREQ=WEEKLY', 'FREQ=WEEKLY;INTERVAL=2', 'FREQ=MONTHLY', 'FREQ=DAILY', 'FREQ=YEARLY'),
      end: fc.constantFrom('', ';COUNT=9', ';COUNT=40', ';UNTIL=20260901T120000Z'),
      excluded: fc.uniqueArray(fc.integer({ min: 0, max: 8 }), { maxLength: 4 }),
      moved: fc.uniqueArray(fc.tuple(fc.integer({ min: 0, max: 8 }), fc.integer({ min: -30, max: 30 })), {
        maxLength: 3,
        selector: ([n]) => n,
      }),
    });
    fc.assert(
      fc.property(places, ({ zoneName, day, hour, minutes, rule, end, excluded, moved }) => {
        const local = (dayNumber: number, hours: number): string =>
          new Date(Date.UTC(2025, 6, 1) + dayNumber * DAY + hours * 3_600_000).toISOString().replace(/[-:]|\.\d+Z/g, '');
        const master = [`DTSTART;TZID=${zoneName}:${local(day, hour)}`, `DURATION:PT${minutes}M`, `RRULE:${rule}${end}`];
        const bare = calendar(zone(zoneName), event(...master));
        const starts = oracle(bare).map((found) => found.local);
        const nth = (n: number): string | undefined => starts[n];
        const without = excluded.flatMap((n) => nth(n) ?? []);
        const changes = moved
          .filter(([n]) => !excluded.includes(n))
          .flatMap(([n, hours]) => {
            const was = nth(n);
            if (was === undefined) return [];
            const next = new Date(Date.parse(`${was}Z`) + hours * 3_600_000).toISOString().replace(/[-:]|\.\d+Z/g, '');
            return event(
              `RECURRENCE-ID;TZID=${zoneName}:${was.replace(/[-:]/g, '')}`,
              `DTSTART;TZID=${zoneName}:${next}`,
              'DURATION:PT30M',
            );
          });
        const text = calendar(
          zone(zoneName),
          event(
            ...master,
            ...(without.length > 0 ? [`EXDATE;TZID=${zoneName}:${without.map((was) => was.replace(/[-:]/g, '')).join(',')}`] : []),
          ),
          ...changes,
        );
        const expected = oracle(text)
          .filter(({ startsAt, endsAt }) => startsAt < YEAR.to && endsAt >= YEAR.from)
          .map(({ startsAt }) => startsAt)
          .sort((first, second) => first - second);
        const found = eventsOf(text, YEAR);
        expect(found.map(({ startsAt }) => startsAt)).toEqual(expected);
        // Hours are hours, also in a night in which the clocks change (RFC 5545, 3.3.6).
        for (const { startsAt, endsAt } of found) expect([minutes, 30]).toContain((endsAt - startsAt) / 60_000);
      }),
      { numRuns: 60 },
    );
  });
});

/** The occurrences up to two years on, by the iterator of a library that this project uses for reading alone. */
function oracle(text: string): { local: string; startsAt: number; endsAt: number }[] {
  const root = new ICAL.Component(ICAL.parse(text) as never);
  const [first, ...others] = root.getAllSubcomponents('vevent');
  const zones = new Map(
    root.getAllSubcomponents('vtimezone').map((component) => [component.getFirstPropertyValue('tzid'), new ICAL.Timezone(component)]),
  );
  const known = new ICAL.Event(first as ICAL.Component, { exceptions: others });
  const iterator = known.iterator();
  const found: { local: string; startsAt: number; endsAt: number }[] = [];
  for (let next = iterator.next(); next && next.toString() < '2027-01-04'; next = iterator.next()) {
    const { startDate, endDate } = known.getOccurrenceDetails(next);
    for (const time of [startDate, endDate]) time.zone = zones.get(time.zone.tzid) ?? time.zone;
    const instant = (time: ICAL.Time): number => time.toUnixTime() * 1000;
    found.push({ local: next.toString().slice(0, 19), startsAt: instant(startDate), endsAt: instant(endDate) });
  }
  return found;
}
