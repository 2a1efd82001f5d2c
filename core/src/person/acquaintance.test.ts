import { expect, test } from '@jest/globals';
import { acquaintanceOf } from './acquaintance';

test.each([
  [{ sent: 10, received: 8, daysAgo: 3 }, 'well'],
  [{ sent: 10, received: 8, daysAgo: 400 }, 'somewhat'],
  [{ sent: 2, received: 1, daysAgo: 10 }, 'somewhat'],
  // Who only writes, or is only written to, is hardly known.
  [{ sent: 40, received: 0, daysAgo: 1 }, 'hardly'],
  [{ sent: 0, received: 40, daysAgo: 1 }, 'hardly'],
  [{ sent: 3, received: 3, daysAgo: 900 }, 'hardly'],
] as const)('%j: %s', (exchange, expected) => {
  expect(acquaintanceOf(exchange)).toBe(expected);
});
