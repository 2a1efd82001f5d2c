import { expect, test } from '@jest/globals';
import { nextWorkingMorning } from './nextWorkingMorning';

const at = (text: string): Date => new Date(text);

test('the next working morning is today’s where it is still to come, and never at a weekend', () => {
  expect(nextWorkingMorning(at('2026-12-01T06:30:00'))).toEqual(at('2026-12-01T08:00:00'));
  expect(nextWorkingMorning(at('2026-12-01T08:00:00'))).toEqual(at('2026-12-02T08:00:00'));
  expect(nextWorkingMorning(at('2026-12-04T09:00:00'))).toEqual(at('2026-12-07T08:00:00'));
  expect(nextWorkingMorning(at('2026-12-05T06:00:00'))).toEqual(at('2026-12-07T08:00:00'));
  expect(nextWorkingMorning(at('2026-12-31T23:59:00'))).toEqual(at('2027-01-01T08:00:00'));
  const holidays = new Set(['2026-12-25', '2026-12-28']);
  expect(nextWorkingMorning(at('2026-12-24T09:00:00'), holidays)).toEqual(at('2026-12-29T08:00:00'));
});

test('over four years it is a weekday at eight, the earliest one still to come', () => {
  for (let hours = 0; hours < 4 * 366 * 24; hours += 7) {
    const now = new Date(2026, 0, 1, hours, 13);
    const morning = nextWorkingMorning(now);
    expect([morning.getHours(), morning.getMinutes(), morning > now]).toEqual([8, 0, true]);
    expect([1, 2, 3, 4, 5]).toContain(morning.getDay());
    // Before it, no weekday's eight o'clock is left.
    const before = new Date(morning);
    do before.setDate(before.getDate() - 1);
    while (before.getDay() === 0 || before.getDay() === 6);
    expect(before <= now).toBe(true);
  }
});
