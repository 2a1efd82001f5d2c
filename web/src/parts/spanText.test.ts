import { expect, test } from '@jest/globals';
import { spanText } from './spanText';

// Tests run in UTC.
test.each([
  ['2026-12-01T10:00:00.000Z', '2026-12-01T11:30:00.000Z', /Dec 1, 2026, 10:00.* to 11:30/],
  ['2026-12-01T22:00:00.000Z', '2026-12-02T01:00:00.000Z', /Dec 1, 2026, 10:00.* to .*Dec 2, 2026, 01:00/],
  ['2026-12-01T10:00:00.000Z', '2026-12-01T10:00:00.000Z', /Dec 1, 2026, 10:00.{0,3}$/],
  ['2026-12-01T00:00:00.000Z', '2026-12-02T00:00:00.000Z', /^Tue, Dec 1, 2026$/],
  ['2026-12-01T00:00:00.000Z', '2026-12-04T00:00:00.000Z', /^Tue, Dec 1, 2026 to Thu, Dec 3, 2026$/],
])('from %s to %s', (from, to, shown) => {
  expect(spanText(from, to)).toMatch(shown);
});
