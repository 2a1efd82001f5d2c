import { describe, expect, test } from '@jest/globals';
import type { Breakable } from './folderWatch';
import { KeptWatch } from './folderWatch';

const AGAIN_MS = 1000;

/** One that is opened by hand, and what became of those that were begun. */
function stage(answers: ('had' | 'not to be had' | 'fails')[]) {
  const begun: { broken: boolean; closed: number }[] = [];
  let tries = 0;
  const kept = new KeptWatch(async (): Promise<Breakable | null> => {
    const answer = answers[tries] ?? 'had';
    tries += 1;
    if (answer === 'fails') throw new Error('refused');
    if (answer === 'not to be had') return null;
    const item = { broken: false, closed: 0 };
    begun.push(item);
    return {
      get open() {
        return !item.broken && item.closed === 0;
      },
      close: async () => void (item.closed += 1),
    };
  }, AGAIN_MS);
  const keep = async (now: number): Promise<number> => {
    kept.keep(now);
    await new Promise((resolve) => setImmediate(resolve));
    return tries;
  };
  return { kept, keep, begun };
}

describe('a watch that is kept', () => {
  test('is opened once, however often it is asked for', async () => {
    const { keep, begun } = stage([]);
    expect([await keep(0), await keep(10), await keep(100_000)]).toEqual([1, 1, 1]);
    expect(begun).toEqual([{ broken: false, closed: 0 }]);
  });

  test.each(['not to be had', 'fails'] as const)('%s at first, it is tried again, but not at once', async (answer) => {
    const { keep, begun } = stage([answer]);
    expect([await keep(0), await keep(AGAIN_MS - 1)]).toEqual([1, 1]);
    expect(begun).toEqual([]);
    expect(await keep(AGAIN_MS)).toBe(2);
    expect(begun).toHaveLength(1);
  });

  test('broken, it is closed and opened anew', async () => {
    const { keep, begun } = stage([]);
    await keep(0);
    Object.assign(begun[0] ?? {}, { broken: true });
    expect(await keep(AGAIN_MS)).toBe(2);
    expect(begun).toEqual([
      { broken: true, closed: 1 },
      { broken: false, closed: 0 },
    ]);
  });

  test('closed for good while it is on its way, it is closed when it comes, and not opened again', async () => {
    const { kept, keep, begun } = stage([]);
    kept.keep(0);
    await kept.close();
    expect(begun).toEqual([{ broken: false, closed: 1 }]);
    expect(await keep(10 * AGAIN_MS)).toBe(1);
  });
});
