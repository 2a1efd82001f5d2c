import { describe, expect, test } from '@jest/globals';
import { clockOf } from './emailDate';

describe('the clock of whoever wrote a date', () => {
  test.each([
    ['Tue, 1 Dec 2026 09:00:00 +0530', 330],
    ['Tue, 1 Dec 2026 09:00:00 -0800 (PST)', -480],
    ['1 Dec 26 09:00 EST', -300],
    ['Tue, 1 Dec 2026 09:00:00 +1400', 840],
    ['Tue, 1 Dec 2026 09:00:00 +0000', null],
    ['Tue, 1 Dec 2026 09:00:00 -0000', null],
    ['Tue, 1 Dec 2026 09:00:00 GMT', null],
    ['Tue, 1 Dec 2026 09:00:00 +9999', null],
    ['Tue, 1 Dec 2026 09:00:00', null],
    ['nonsense', null],
  ])('%s', (text, minutes) => {
    expect(clockOf(text)).toBe(minutes);
  });
});
