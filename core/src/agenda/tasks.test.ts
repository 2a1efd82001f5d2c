import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Repeat } from './tasks';
import { dayAt, dueMoment, nextDay, REPEAT_UNITS } from './tasks';

const BERLIN = 'Europe/Berlin';

describe('when a task is late', () => {
  test.each([
    [{ day: '2026-12-24', time: '09:30', zone: BERLIN }, '2026-12-24T08:30:00.000Z'],
    [{ day: '2026-07-01', time: '09:30', zone: BERLIN }, '2026-07-01T07:30:00.000Z'],
    [{ day: '2026-12-24', time: null, zone: BERLIN }, '2026-12-24T23:00:00.000Z'],
    [{ day: '2026-10-25', time: null, zone: BERLIN }, '2026-10-25T23:00:00.000Z'],
    [{ day: '2026-03-29', time: null, zone: BERLIN }, '2026-03-29T22:00:00.000Z'],
    [{ day: '2026-12-31', time: null, zone: 'America/Los_Angeles' }, '2027-01-01T08:00:00.000Z'],
    [{ day: '2026-12-24', time: '23:59', zone: 'No/Where' }, '2026-12-24T23:59:00.000Z'],
  ])('%j: %s', (due, moment) => {
    expect(new Date(dueMoment(due)).toISOString()).toBe(moment);
  });

  test('on a day of its zone, it is late in no earlier moment of that day', () => {
    const zones = [BERLIN, 'America/New_York', 'Asia/Kolkata', 'Pacific/Auckland', 'UTC'];
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 4_000_000_000_000 }), fc.constantFrom(...zones), (at, zone) => {
        const day = dayAt(at, zone);
        expect(dueMoment({ day, time: null, zone })).toBeGreaterThan(at);
        expect(dueMoment({ day, time: '00:00', zone })).toBeLessThanOrEqual(at);
      }),
    );
  });
});

describe('a task that comes back', () => {
  const week: Repeat = { every: 1, unit: 'week' };

  test.each([
    ['2026-12-01', '2026-12-01', '2026-12-01', week, '2026-12-08'],
    // Done early: it comes a week after it was due. Done late: on the first day of the row that is still to come.
    ['2026-12-01', '2026-12-08', '2026-12-02', week, '2026-12-15'],
    ['2026-12-01', '2026-12-01', '2026-12-21', week, '2026-12-22'],
    ['2026-12-01', '2026-12-01', '2026-12-22', week, '2026-12-22'],
    ['2026-01-31', '2026-01-31', '2026-01-31', { every: 1, unit: 'month' }, '2026-02-28'],
    ['2026-01-31', '2026-02-28', '2026-02-28', { every: 1, unit: 'month' }, '2026-03-31'],
    ['2024-02-29', '2024-02-29', '2024-03-01', { every: 1, unit: 'year' }, '2025-02-28'],
    ['2024-02-29', '2027-02-28', '2027-03-01', { every: 1, unit: 'year' }, '2028-02-29'],
    ['2026-12-01', '2026-12-01', '2026-12-01', { every: 10, unit: 'day' }, '2026-12-11'],
  ] as const)('from %s, due %s, done on %s, %j: %s', (first, due, today, repeat, next) => {
    expect(nextDay(first, due, today, repeat)).toBe(next);
  });

  test('is the first day of its row after it was due that is not past', () => {
    const days = fc.integer({ min: 0, max: 20_000 }).map((day) => new Date(day * 86_400_000).toISOString().slice(0, 10));
    const repeats = fc.record({ every: fc.integer({ min: 1, max: 99 }), unit: fc.constantFrom(...REPEAT_UNITS) });
    fc.assert(
      fc.property(days, fc.integer({ min: 0, max: 40 }), days, repeats, (first, step, today, repeat) => {
        // The row, one by one.
        const row = [first];
        for (let at = 0; at < step || (row.at(-1) ?? '') < today || at <= step; at += 1)
          row.push(nextDay(first, row.at(-1) ?? '', '1970-01-01', repeat));
        const due = row[step] ?? first;
        const next = nextDay(first, due, today, repeat);
        expect(next).toBe(row.find((day) => day > due && day >= today));
      }),
    );
  });
});
