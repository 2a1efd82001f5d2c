import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { DAY, deal, NOW } from '../testing/decisionWorld';
import { couldReach, scoreDeals } from './dealScore';
import { PLAIN_FACTS } from './plainFacts';

const people = ['contact:1'];

test('a deal on which no one is never scores more than it could reach', () => {
  fc.assert(
    fc.property(
      fc.constantFrom('Survey buoys', 'Parking', 'buoy', 'Survey of gauges'),
      fc.constantFrom(null, 'tomas@quillmere.example', 'jo@quillmere.example'),
      fc.array(fc.integer({ min: -90, max: 5 }), { maxLength: 3 }),
      (subject, owner, days) => {
        const activity = days.sort((first, second) => first - second).map((day) => NOW + day * DAY);
        const deals = [deal(1, ['contact:77'], { name: 'Survey buoys', owner, activity }), deal(2, ['contact:78'])];
        const facts = { ...PLAIN_FACTS, id: 1, at: NOW, subject, participants: [], users: ['tomas@quillmere.example'] };
        const score = scoreDeals(facts, deals, new Set(people)).find((scoreDeal) => scoreDeal.id === 1)?.score ?? 0;
        expect(couldReach(facts, deals[0]!, score)).toBe(true);
        expect(couldReach(facts, deals[0]!, 1)).toBe(false);
      },
    ),
  );
});

describe('words of a deal’s name in the subject', () => {
  const named = (subject: string, ...names: string[]): (number | undefined)[] => {
    const deals = names.map((name, at) => deal(at + 1, people, { name }));
    const present = new Set(people);
    const scores = scoreDeals({ ...PLAIN_FACTS, id: 1, at: NOW, subject, participants: [] }, deals, present);
    return names.map((_, at) => scores.find((score) => score.id === at + 1)?.score);
  };

  test.each([
    [
      'two words, one of them its own',
      'Zander River: delivery',
      ['Zander River: gauges', 'Oriel River: buoys', 'Kelp Quay: nets'],
      [0.75, 0.35 + 0.06, 0.35],
    ],
    [
      'two words that only it has together',
      'Zander River: delivery',
      ['Zander River: gauges', 'Zander Quay: gauges', 'Oriel River: buoys'],
      [0.75, 0.35 + 0.06, 0.35 + 0.06],
    ],
    ['one word of its own', 'Oriel', ['Zander River: gauges', 'Oriel River: buoys'], [0.35, 0.35 + 0.13]],
    ['its only word', 'Telemetry', ['Telemetry', 'Cage monitoring'], [0.75, 0.35]],
    ['a plural', 'the gauge', ['Gauges', 'Buoys'], [0.75, 0.35]],
    ['a word that all have', 'River', ['Zander River', 'Oriel River'], [0.35, 0.35]],
  ])('%s', (_, subject, names, scores) => {
    expect(named(subject, ...names)).toEqual(scores.map((score) => Math.round(score * 100) / 100));
  });
});
