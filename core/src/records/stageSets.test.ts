import { describe, expect, test } from '@jest/globals';
import { STAGE_SETS, withStageSet } from './stageSets';

describe('ready-made sets of stages', () => {
  test.each(STAGE_SETS)('$purpose: begins open, ends closed, no name twice', ({ stages }) => {
    expect(stages[0]?.open).toBe(true);
    const firstClosed = stages.findIndex(({ open }) => !open);
    expect(stages.slice(firstClosed).every(({ open }) => !open)).toBe(true);
    expect(stages.length - firstClosed).toBeGreaterThanOrEqual(2);
    expect(new Set(stages.map(({ name }) => name.toLowerCase())).size).toBe(stages.length);
  });

  test('leave deals at a stage of the same name where they are', () => {
    const [projects] = STAGE_SETS;
    if (!projects) throw new Error('There is no set.');
    const known = [
      { id: 4, name: 'won', open: false },
      { id: 5, name: 'Elsewhere', open: true },
    ];
    const set = withStageSet(known, projects);
    expect(set.find(({ name }) => name === 'Won')).toEqual({ id: 4, name: 'Won', open: false });
    expect(set.filter(({ id }) => id !== null)).toHaveLength(1);
  });
});
