import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { OfferedTimes, Span } from './freeTimes';
import { freeTimes, someOf } from './freeTimes';

const at = (text: string): number => Date.parse(text);
const MINUTE = 60_000;
const USUAL: OfferedTimes = {
  zone: 'Europe/Berlin',
  days: [1, 2, 3, 4, 5],
  from: 9 * 60,
  to: 11 * 60,
  minutes: 60,
  breakMinutes: 0,
  noticeHours: 24,
  aheadDays: 7,
};
const around = { now: at('2026-10-22T06:00:00Z'), holidays: new Set(['2026-10-27']) };
const starts = (times: OfferedTimes, taken: Span[][], needs: 'all' | 'any' = 'all'): string[] =>
  freeTimes(times, taken, needs, around).map((time) => new Date(time.at).toISOString().slice(0, 16));

test('times are offered on working days by the clock of the zone, after the notice, up to the last day', () => {
  // The clocks go back on October 25; the 27th is a holiday.
  expect(starts(USUAL, [[]])).toEqual([
    '2026-10-23T07:00',
    '2026-10-23T07:30',
    '2026-10-23T08:00',
    '2026-10-26T08:00',
    '2026-10-26T08:30',
    '2026-10-26T09:00',
    '2026-10-28T08:00',
    '2026-10-28T08:30',
    '2026-10-28T09:00',
  ]);
  expect(starts({ ...USUAL, noticeHours: 72, aheadDays: 4 }, [[]])).toEqual([]);
});

test('what is taken is not offered, with a break around it; all members are needed, or any', () => {
  const taken = [{ from: at('2026-10-23T07:15:00Z'), to: at('2026-10-23T07:45:00Z') }];
  expect(starts(USUAL, [taken])[0]).toBe('2026-10-23T08:00');
  expect(starts({ ...USUAL, breakMinutes: 30 }, [taken])[0]).toBe('2026-10-26T08:00');
  expect(starts(USUAL, [taken, []], 'all')[0]).toBe('2026-10-23T08:00');
  expect(freeTimes(USUAL, [taken, []], 'any', around)[0]).toEqual({ at: at('2026-10-23T07:00:00Z'), members: [1] });
  expect(starts(USUAL, [])).toEqual([]);
});

test('every minute says the same', () => {
  const span = fc
    .tuple(fc.integer({ min: 0, max: 9 * 24 * 60 }), fc.integer({ min: 0, max: 600 }))
    .map(([from, minutes]): Span => ({ from: around.now + from * MINUTE, to: around.now + (from + minutes) * MINUTE }));
  const times = fc.record({
    zone: fc.constantFrom('Europe/Berlin', 'America/New_York', 'UTC'),
    days: fc.subarray([1, 2, 3, 4, 5, 6, 7], { minLength: 1 }),
    from: fc.integer({ min: 0, max: 20 }).map((n) => n * 30),
    to: fc.integer({ min: 21, max: 48 }).map((n) => n * 30),
    minutes: fc.constantFrom(15, 30, 45, 90),
    breakMinutes: fc.constantFrom(0, 10, 60),
    noticeHours: fc.constantFrom(0, 5, 48),
    aheadDays: fc.integer({ min: 1, max: 9 }),
  });
  fc.assert(
    fc.property(
      times,
      fc.array(fc.array(span, { maxLength: 12 }), { minLength: 1, maxLength: 3 }),
      fc.constantFrom('all' as const, 'any' as const),
      (offered, taken, needs) => {
        const found = freeTimes(offered, taken, needs, around);
        const clock = new Intl.DateTimeFormat('en-GB', {
          timeZone: offered.zone,
          weekday: 'short',
          hour: '2-digit',
          minute: '2-digit',
          hourCycle: 'h23',
          day: '2-digit',
          month: '2-digit',
          year: 'numeric',
        });
        const expected: number[] = [];
        const first = around.now + offered.noticeHours * 60 * MINUTE;
        for (let minute = first; minute <= around.now + offered.aheadDays * 24 * 60 * MINUTE; minute += MINUTE) {
          const parts = Object.fromEntries(clock.formatToParts(minute).map(({ type, value }) => [type, value]));
          const ofDay = Number(parts.hour) * 60 + Number(parts.minute);
          const weekday = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'].indexOf(String(parts.weekday)) + 1;
          const fits =
            offered.days.includes(weekday) &&
            !around.holidays.has(`${parts.year}-${parts.month}-${parts.day}`) &&
            ofDay >= offered.from &&
            ofDay + offered.minutes <= offered.to &&
            (ofDay - offered.from) % (offered.minutes < 30 ? 15 : 30) === 0;
          if (!fits) continue;
          const free = taken.map((spans) =>
            spans.every(
              ({ from, to }) =>
                to <= from ||
                to <= minute - offered.breakMinutes * MINUTE ||
                from >= minute + (offered.minutes + offered.breakMinutes) * MINUTE,
            ),
          );
          if (needs === 'all' ? free.every(Boolean) : free.some(Boolean)) expected.push(minute);
        }
        // The hour that comes twice when the clocks go back is offered once.
        const twice = new Set(expected.map((time) => clock.format(time)));
        expect(found.map((time) => clock.format(time.at))).toEqual([...twice]);
      },
    ),
    { numRuns: 60 },
  );
});

test('some times are on different days, mornings and afternoons by turns', () => {
  const offered = freeTimes({ ...USUAL, to: 17 * 60 }, [[]], 'all', around);
  expect(someOf(offered, 3, 'Europe/Berlin').map((time) => new Date(time.at).toISOString().slice(0, 16))).toEqual([
    '2026-10-23T07:00',
    '2026-10-26T11:00',
    '2026-10-28T08:00',
  ]);
  expect(someOf(offered.slice(0, 2), 3, 'Europe/Berlin')).toHaveLength(2);
  expect(someOf([], 3, 'Europe/Berlin')).toEqual([]);
});
