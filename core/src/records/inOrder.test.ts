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

test('the directory keeps the activity of a deal in order, each time once, in whatever order it learns of it', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 0, max: 30 })), fc.array(fc.integer({ min: 0, max: 30 })), (known, learned) => {
      const deal = { id: 1, name: 'Gauges', ...PLAIN_DEAL, people: [], activity: [...new Set(known)] };
      const directory = new Directory({ people: [], accounts: [], deals: [deal] });
      for (const at of learned) directory.noteDealActivity([1], at);
      expect(deal.activity).toEqual([...new Set([...known, ...learned])].sort((first, second) => first - second));
    }),
  );
});
