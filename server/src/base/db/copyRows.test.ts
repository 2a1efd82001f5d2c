import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';
import type { TestServer } from '../../testing/testServer';
import { startTestServer } from '../../testing/testServer';
import type { CopiedRow } from './copyRows';
import { bigints, copyRows, inBatches } from './copyRows';

let server: TestServer;
beforeAll(async () => {
  server = await startTestServer();
}, 60_000);
afterAll(() => server.remove());

async function copied(query: SQL, batch = 100): Promise<CopiedRow[][]> {
  const { worker, workerPool } = server.services.database;
  return worker.transaction(
    async (tx) => {
      const batches: CopiedRow[][] = [];
      for await (const rows of copyRows(workerPool, tx, query, batch)) batches.push(rows);
      return batches;
    },
    { isolationLevel: 'repeatable read' },
  );
}

describe('rows by COPY', () => {
  test('hold every text as it is, whatever parts rows and columns', async () => {
    const texts = ['', '\\N', 'tab\there', 'line\nbreak\r\n', 'back\\slash \\t', '\u001f\u001e', '\b\f\v', 'Ærø – 灯台 🌊'];
    const list = sql.join(
      texts.map((text, at) => sql.raw(`(${at}, convert_from('\\x${Buffer.from(text).toString('hex')}', 'UTF8'))`)),
      sql`, `,
    );
    const [rows = []] = await copied(sql`SELECT n, t, NULL FROM (VALUES ${list}) v(n, t) ORDER BY n`);
    expect(rows).toEqual(texts.map((text, at) => [String(at), text, null]));
  });

  test('come in batches, the last one smaller', async () => {
    const batches = await copied(sql`SELECT n FROM generate_series(1, 10) n WHERE n = ANY(${bigints([1, 2, 3, 4, 5, 6, 7])})`, 3);
    expect(batches.map((rows) => rows.map(([n]) => n))).toEqual([['1', '2', '3'], ['4', '5', '6'], ['7']]);
  });

  test('see what the transaction sees, and nothing that came after it', async () => {
    const { worker, workerPool } = server.services.database;
    await worker.transaction(
      async (tx) => {
        const before = await tx.execute<{ n: number }>(sql`SELECT count(*)::int AS n FROM thread_ids`);
        await worker.execute(
          sql`INSERT INTO thread_ids (message_id, family_id) VALUES ('later@harbour.example', 1) ON CONFLICT DO NOTHING`,
        );
        for await (const rows of copyRows(workerPool, tx, sql`SELECT count(*) FROM thread_ids`, 10))
          expect(rows).toEqual([[String(before.rows[0]?.n)]]);
        const after = await worker.execute<{ n: number }>(sql`SELECT count(*)::int AS n FROM thread_ids`);
        expect(after.rows[0]?.n).toBe((before.rows[0]?.n ?? 0) + 1);
      },
      { isolationLevel: 'repeatable read' },
    );
  });

  test('who stops early leaves no connection behind on which rows are still coming', async () => {
    const { worker, workerPool } = server.services.database;
    await worker.transaction(
      async (tx) => {
        for await (const rows of copyRows(workerPool, tx, sql`SELECT repeat('x', 1000) FROM generate_series(1, 100000)`, 5)) {
          expect(rows).toHaveLength(5);
          break;
        }
      },
      { isolationLevel: 'repeatable read' },
    );
    const answers = await Promise.all(Array.from({ length: 8 }, () => workerPool.query('SELECT 1 AS one')));
    expect(answers.map(({ rows }) => rows)).toEqual(answers.map(() => [{ one: 1 }]));
  });

  test('an error of the query arrives, and parameters are refused', async () => {
    await expect(copied(sql`SELECT 1 / (n - 3) FROM generate_series(1, 5) n`)).rejects.toThrow('division by zero');
    await expect(copied(sql`SELECT ${'text'}`)).rejects.toThrow('takes no parameters');
  });

  test('pieces may end anywhere, even inside of a letter', async () => {
    const all = Buffer.from('1\tfær\\\\ø\n2\t\\N\n3\t🌊\\n\n');
    for (let size = 1; size < all.length; size += 1) {
      const rows: CopiedRow[] = [];
      const pieces = Array.from({ length: Math.ceil(all.length / size) }, (_, at) => all.subarray(at * size, (at + 1) * size));
      for await (const batch of inBatches(
        (async function* () {
          yield* pieces;
        })(),
        2,
      ))
        rows.push(...batch);
      expect(rows).toEqual([
        ['1', 'fær\\ø'],
        ['2', null],
        ['3', '🌊\n'],
      ]);
    }
  });
});
