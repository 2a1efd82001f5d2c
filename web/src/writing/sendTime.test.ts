import { describe, expect, test } from '@jest/globals';
import { clockName, momentOf, morningBy } from './sendTime';

const none = new Set<string>();

describe('a time by the clock of the recipient', () => {
  test('is the moment at which that clock shows it', () => {
    expect(momentOf({ day: '2026-12-01', time: '08:00' }, 330).toISOString()).toBe('2026-12-01T02:30:00.000Z');
    expect(momentOf({ day: '2026-12-01', time: '08:00' }, -480).toISOString()).toBe('2026-12-01T16:00:00.000Z');
    expect(momentOf({ day: '2026-12-01', time: '08:00' }, null)).toEqual(new Date('2026-12-01T08:00'));
    expect(Number.isNaN(momentOf({ day: '', time: '08:00' }, 60).getTime())).toBe(true);
  });

  test('has its own next working morning: it may be tomorrow there, or still yesterday', () => {
    const friday = new Date('2026-12-04T20:00:00Z');
    expect(morningBy(friday, 330, none)).toEqual({ day: '2026-12-07', time: '08:00' });
    expect(morningBy(new Date('2026-12-03T20:00:00Z'), 780, none)).toEqual({ day: '2026-12-07', time: '08:00' });
    expect(morningBy(new Date('2026-12-04T10:00:00Z'), -600, none)).toEqual({ day: '2026-12-04', time: '08:00' });
    expect(morningBy(new Date('2026-12-04T10:00:00Z'), -600, new Set(['2026-12-04']))).toEqual({ day: '2026-12-07', time: '08:00' });
  });

  test('over a year, by every clock, it is ahead, on a weekday, and no later than three days and a bit', () => {
    for (let hours = 0; hours < 366 * 24; hours += 5)
      for (const offset of [-720, -300, 60, 345, 840]) {
        const now = new Date(Date.UTC(2026, 0, 1, hours, 7));
        const morning = morningBy(now, offset, none);
        const at = momentOf(morning, offset);
        expect(at.getTime()).toBeGreaterThan(now.getTime());
        expect(at.getTime() - now.getTime()).toBeLessThanOrEqual(72 * 3_600_000);
        expect([1, 2, 3, 4, 5]).toContain(new Date(`${morning.day}T00:00:00Z`).getUTCDay());
        expect(morning.time).toBe('08:00');
      }
  });

  test('is named by its distance from UTC', () => {
    expect([330, -480, 60].map(clockName)).toEqual(['UTC+05:30', 'UTC−08:00', 'UTC+01:00']);
  });
});
