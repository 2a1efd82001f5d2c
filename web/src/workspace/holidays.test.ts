import { describe, expect, test } from '@jest/globals';
import { holidayLines, readHolidays } from './holidays';

describe('holidays as lines', () => {
  test('are read in their order, each day once, and shown as they were written', () => {
    const { holidays, wrong } = readHolidays(' 2026-12-26 Second day \n\n2026-12-25\n2026-12-26 Boxing Day');
    expect(wrong).toBeNull();
    expect(holidays).toEqual([
      { day: '2026-12-25', name: '' },
      { day: '2026-12-26', name: 'Boxing Day' },
    ]);
    expect(holidayLines(holidays)).toBe('2026-12-25\n2026-12-26 Boxing Day');
  });

  test.each(['Christmas', '25.12.2026', '2026-02-30', '2026-13-01 x', '2026-12-2'])('say which line is no day: %s', (line) => {
    expect(readHolidays(`2026-12-25\n${line}`)).toEqual({ holidays: [], wrong: line });
  });
});
