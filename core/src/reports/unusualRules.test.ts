import { describe, expect, test } from '@jest/globals';
import { unusualRules } from './unusualRules';

/** Random numbers that a seed repeats. */
function randomFrom(seed: number): () => number {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return state / 2 ** 32;
  };
}

/** How many of so many emails a rule takes that takes each with this chance. */
const taken = (random: () => number, mail: number, chance: number): number =>
  Array.from({ length: mail }, random).filter((value) => value < chance).length;

const WEEKS = 9;
const weeksOf = (random: () => number): number[] => Array.from({ length: WEEKS }, () => 350 + Math.floor(random() * 200));

describe('a rule is unusual', () => {
  test('when it takes several times its share, or nothing any more', () => {
    const totals = [400, 410, 390, 400, 405, 395, 400, 400, 400];
    const steady = [40, 41, 38, 44, 39, 40, 37, 42];
    expect(
      unusualRules(
        [
          { rule: 'more', counts: [...steady, 120] },
          { rule: 'none', counts: [...steady, 0] },
          { rule: 'as always', counts: [...steady, 44] },
        ],
        totals,
      ),
    ).toEqual([
      { rule: 'more', took: 120, usual: 40 },
      { rule: 'none', took: 0, usual: 40 },
    ]);
  });

  test('not when it takes more because there is more mail, nor where too few weeks show what is usual', () => {
    const counts = [40, 40, 40, 40, 40, 40, 40, 40, 120];
    expect(unusualRules([{ rule: 'x', counts }], [400, 400, 400, 400, 400, 400, 400, 400, 1200])).toEqual([]);
    expect(unusualRules([{ rule: 'x', counts: [0, 0, 0, 0, 0, 40, 40, 40, 200] }], [0, 0, 0, 0, 0, 400, 400, 400, 400])).toEqual([]);
    expect(unusualRules([{ rule: 'x', counts: [] }], [])).toEqual([]);
  });

  test('not when another rule takes so much that all shares become smaller', () => {
    const steady = [300, 310, 290, 305, 300, 298, 303, 295, 300];
    const surge = [0, 0, 0, 0, 0, 0, 0, 0, 600];
    const totals = steady.map((count, at) => count + (surge[at] ?? 0) + 50);
    const rules = [
      { rule: 'steady', counts: steady },
      { rule: 'surge', counts: surge },
    ];
    expect(unusualRules(rules, totals).map(({ rule }) => rule)).toEqual(['surge']);
  });

  test('not when it swings as much every week', () => {
    const totals = Array.from({ length: WEEKS }, () => 400);
    expect(unusualRules([{ rule: 'x', counts: [5, 90, 10, 80, 2, 95, 8, 88, 100] }], totals)).toEqual([]);
  });

  test('hardly ever by chance, and nearly always when its share has tripled', () => {
    const random = randomFrom(7);
    let alarms = 0;
    let found = 0;
    const rounds = 400;
    for (let round = 0; round < rounds; round += 1) {
      const totals = weeksOf(random);
      const chance = 0.02 + random() * 0.2;
      const usual = totals.map((mail) => taken(random, mail, chance));
      alarms += unusualRules([{ rule: 'x', counts: usual }], totals).length;
      const tripled = [...usual.slice(0, -1), taken(random, totals.at(-1) ?? 0, chance * 3)];
      if ((totals.at(-1) ?? 0) * chance > 20) found += unusualRules([{ rule: 'x', counts: tripled }], totals).length;
      else found += 1;
    }
    expect(alarms).toBeLessThanOrEqual(2);
    expect(found / rounds).toBeGreaterThan(0.97);
  });
});
