import type { SQL } from 'drizzle-orm';
import { z } from 'zod';
import type { Db } from './database';

/** A timestamp as answers give it: the database's text becomes ISO 8601 text in UTC. */
export const moment = z.string().transform((text) => new Date(text).toISOString());

/** A value of a JSON or composite column: written by this program only, so its type is named and its inside is not checked again. */
export const json = <T>() => z.custom<T>((value) => value !== null && value !== undefined);

export const idRow = z.object({ id: z.number() });

type Runs = Pick<Db, 'execute'>;

/**
 * What the query finds, each row checked against the shape.
 *
 * @throws when a row differs from it: the query and its shape do not belong together
 */
export async function rowsOf<Shape extends z.ZodType>(db: Runs, shape: Shape, query: SQL | string): Promise<z.output<Shape>[]> {
  const { rows } = await db.execute(query);
  return rows.map((row) => rowOf(shape, row));
}

/** Like {@link rowsOf} where very many rows come at once: a server checks the first, the tests all. Not for shapes that change a value. */
export async function manyRowsOf<Shape extends z.ZodType>(db: Runs, shape: Shape, query: SQL | string): Promise<z.output<Shape>[]> {
  const { rows } = await db.execute(query);
  checkRows(shape, rows);
  return rows;
}

/** Checks rows that came another way, as from COPY: the first in a server, all in tests. */
export function checkRows<Shape extends z.ZodType>(shape: Shape, rows: readonly unknown[]): asserts rows is z.output<Shape>[] {
  for (const row of checksAll ? rows : rows.slice(0, 1)) rowOf(shape, row);
}

const checksAll = process.env.NODE_ENV === 'test';

function rowOf<Shape extends z.ZodType>(shape: Shape, row: unknown): z.output<Shape> {
  const read = shape.safeParse(row);
  if (read.success) return read.data;
  const [issue] = read.error.issues;
  throw new Error(`A row does not have the shape of its query: ${issue?.path.map(String).join('.') ?? ''}: ${issue?.message ?? ''}`);
}
