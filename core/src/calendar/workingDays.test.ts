import { describe, expect, test } from '@jest/globals';
import { randomFrom } from '../testing/random';
import { afterWorkingDays } from './workingDays';

const HOUR = 3_600_000;
const at = (text: string): number => Date.parse(text);
const formats = new Map<string, Intl.DateTimeFormat>();
function shown(time: number, timeZone: string): string {
  const format = formats.get(timeZone) ?? new Intl.DateTimeFormat('sv-SE', { timeZone, dateStyle: 'short', timeStyle: 'medium' });
  formats.set(timeZone, format);
  return format.format(time);
}
const none = new Set<string>();

describe('working days', () => {
  test.each([
    ['over a weekend', '2026-12-04T10:00:00Z', 1, 'Europe/London', none, '2026-12-07 10:00:00'],
    ['over holidays', '2026-12-23T09:00:00Z', 2, 'Europe/Berlin', new Set(['2026-12-25', '2026-12-28']), '2026-12-29 10:00:00'],
    ['from a Sunday', '2026-12-06T09:00:00Z', 1, 'Europe/Berlin', none, '2026-12-07 10:00:00'],
    ['from the middle of the night, in the morning', '2026-12-01T02:00:00Z', 1, 'Europe/Berlin', none, '2026-12-02 08:00:00'],
    ['from the late evening, by five', '2026-12-01T21:30:00Z', 1, 'Europe/Berlin', none, '2026-12-02 17:00:00'],
    ['where the clock goes forward', '2026-03-27T09:15:00Z', 1, 'Europe/Berlin', none, '2026-03-30 10:15:00'],
    ['where the clock goes back', '2026-10-30T14:15:00Z', 1, 'America/New_York', none, '2026-11-02 10:15:00'],
    ['where it is tomorrow already', '2026-12-03T22:00:00Z', 1, 'Pacific/Auckland', none, '2026-12-07 11:00:00'],
    ['in a zone that no one knows, by UTC', '2026-12-01T09:00:00Z', 1, 'Nowhere/Land', none, '2026-12-02 09:00:00'],
  ])('are counted %s', (_, from, days, zone, holidays, expected) => {
    expect(shown(afterWorkingDays(at(from), days, { zone, holidays }), zone === 'Nowhere/Land' ? 'UTC' : zone)).toBe(expected);
  });

  test('none is at once, and nothing but holidays comes to an end', () => {
    expect(afterWorkingDays(123, 0, { zone: 'UTC', holidays: none })).toBe(123);
    const always = new Set(
      Array.from({ length: 5000 }, (_, day) => new Date(at('2026-12-01T00:00:00Z') + day * 24 * HOUR).toISOString().slice(0, 10)),
    );
    expect(afterWorkingDays(at('2026-12-01T09:00:00Z'), 3, { zone: 'UTC', holidays: always })).toBeGreaterThan(at('2036-01-01T00:00:00Z'));
  });

  // Counted hour by hour, by what a clock in the zone shows: the other way round.
  test('are as many as one who watches the clock counts', () => {
    const random = randomFrom(71);
    const zones = ['Europe/Berlin', 'America/New_York', 'Australia/Lord_Howe', 'Asia/Kolkata', 'Pacific/Apia', 'America/Sao_Paulo', 'UTC'];
    for (let round = 0; round < 300; round += 1) {
      const zone = zones[Math.floor(random() * zones.length)] ?? 'UTC';
      const from = at('2026-01-01T00:00:00Z') + Math.floor(random() * 365 * 24) * HOUR;
      const days = 1 + Math.floor(random() * 8);
      const holidays = new Set(Array.from({ length: 6 }, () => shown(from + Math.floor(random() * 15) * 24 * HOUR, zone).slice(0, 10)));
      const to = afterWorkingDays(from, days, { zone, holidays });
      const passed = new Set<string>();
      for (let moment = from; moment <= to; moment += HOUR / 2) passed.add(shown(moment, zone).slice(0, 10));
      passed.add(shown(to, zone).slice(0, 10));
      passed.delete(shown(from, zone).slice(0, 10));
      const working = [...passed].filter((day) => ![0, 6].includes(new Date(`${day}T12:00:00Z`).getUTCDay()) && !holidays.has(day));
      expect({ zone, from, working: working.length, last: working.at(-1) }).toEqual({
        zone,
        from,
        working: days,
        last: shown(to, zone).slice(0, 10),
      });
      const time = shown(to, zone).slice(11);
      expect(time >= '08:00:00' && time <= '17:00:00').toBe(true);
    }
  });
});
