import type { NodePgDatabase } from 'drizzle-orm/node-postgres';
import { NodePgSession } from 'drizzle-orm/node-postgres';
import type { PgDialect } from 'drizzle-orm/pg-core';
import type pg from 'pg';
import { isRefusal } from '../refusal';

/**
 * Gives each transaction a connection that always goes back to the pool.
 *
 * The library keeps a connection for good when its `BEGIN` fails, as it does when the database ends connections that were just handed out:
 * after as many of these as the pool is large, every transaction would wait for ever, and the server could not stop.
 */
export function returnConnections<Schema extends Record<string, unknown>>(
  db: NodePgDatabase<Schema>,
  pool: pg.Pool,
): NodePgDatabase<Schema> {
  const { dialect } = db as unknown as { dialect: PgDialect };
  db.transaction = async (work, config) => {
    const client = await pool.connect();
    try {
      return await new NodePgSession<Schema, never>(client, dialect, undefined).transaction(work as never, config);
    } finally {
      // One that broke is not kept: the pool sees that it takes no more queries.
      client.release();
    }
  };
  return db;
}

/** Carries a refusal out of a transaction, which rolls back for what is thrown alone. */
class Refused {
  constructor(readonly refusal: unknown) {}
}

/** A transaction that writes nothing when its work gives back a refusal. */
export async function refusing<Tx, Config, T>(
  db: { transaction<R>(work: (tx: Tx) => Promise<R>, config?: Config): Promise<R> },
  work: (tx: Tx) => Promise<T>,
  config?: Config,
): Promise<T> {
  try {
    return await db.transaction(async (tx) => {
      const result = await work(tx);
      if (isRefusal(result)) throw new Refused(result);
      return result;
    }, config);
  } catch (error) {
    if (error instanceof Refused) return error.refusal as T;
    throw error;
  }
}
