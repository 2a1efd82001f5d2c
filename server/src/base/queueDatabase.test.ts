import { describe, expect, test } from '@jest/globals';
import { createRequire } from 'node:module';
import { queueDatabase } from './queueDatabase';

const plans = createRequire(import.meta.url)('pg-boss/src/plans.js') as Record<string, (schema: string) => string>;
const ENDING = [plans.completeJobs?.('pgboss') ?? '', plans.failJobsById?.('pgboss') ?? ''];

function database(failures: number, hasEnded = () => false) {
  const asked: string[] = [];
  const warned: unknown[] = [];
  const made = queueDatabase(
    (text) => {
      asked.push(text);
      return asked.length <= failures
        ? Promise.reject(new Error('not currently accepting connections'))
        : Promise.resolve({ rows: [{ count: 1 }] });
    },
    (error) => warned.push(error),
    hasEnded,
  );
  return { ...made, asked, warned };
}

describe('what the queue says while the database is away', () => {
  test.each(ENDING.map((text, at) => [at === 0 ? 'done' : 'failed', text]))(
    'of a job that is %s is said until it is taken',
    async (_, text) => {
      expect(text.length).toBeGreaterThan(50);
      const { executeSql, asked, warned } = database(2);
      expect(await executeSql(text, [])).toEqual({ rows: [{ count: 1 }] });
      expect(asked).toHaveLength(3);
      expect(warned).toHaveLength(2);
    },
  );

  test('of a job that ended is given up where the process ends, without a fault', async () => {
    const { executeSql, asked } = database(9, () => true);
    expect(await executeSql(ENDING[0] ?? '', [])).toEqual({ rows: [] });
    expect(asked).toHaveLength(1);
  });

  test('to hand work over, or to look for work, fails at once: someone waits for that', async () => {
    const { executeSql, asked } = database(1);
    await expect(executeSql('INSERT INTO pgboss.job SELECT 1', [])).rejects.toThrow('not currently');
    expect(asked).toHaveLength(1);
  });
});
