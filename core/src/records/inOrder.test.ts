import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { PLAIN_DEAL } from '../decision/plainFacts';
import { Directory } from './directory';
import { placeOfNumber } from './inOrder';

test('the place of a number is that of the first which is not below it', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: -20, max: 20 })), fc.integer({ min: -22, max: 22 }), (given, value) => {
      const numbers = [...given].sort((first, second) => first - second);
      expect(placeOfNumber(numbers, value)).toBe(numbers.filter((item) => item < value).length);
    }),
  );
});

test('the directory keeps the activity of a deal in order, in whatever order emails come under it and leave it', () => {
  const times = fc.array(fc.integer({ min: 0, max: 30 }));
  const NONE: ReadonlySet<number> = new Set();
  const IT: ReadonlySet<number> = new Set([1]);
  fc.assert(
    fc.property(times, times, fc.nat(), (known, learned, most) => {
      const deal = { id: 1, name: 'Gauges', ...PLAIN_DEAL, people: [], activity: [...known] };
      const directory = new Directory({ people: [], accounts: [], deals: [deal] });
      for (const at of learned) directory.noteDealActivity(NONE, IT, at);
      const all = [...known, ...learned];
      const gone = all.slice(0, most % (all.length + 1));
      for (const at of gone) directory.noteDealActivity(IT, NONE, at);
      for (const at of all) directory.noteDealActivity(IT, IT, at);
      expect(deal.activity).toEqual(all.slice(gone.length).sort((first, second) => first - second));
    }),
  );
});
