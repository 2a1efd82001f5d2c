import { drizzle } from 'drizzle-orm/node-postgres';
import type { NodePgDatabase } from 'drizzle-orm/node-postgres';
import type { PgTransactionConfig } from 'drizzle-orm/pg-core';
import { migrate } from 'drizzle-orm/node-postgres/migrator';
import { createHmac } from 'node:crypto';
import pg from 'pg';
import { claimRoles, demandKnownSchema } from './checkInstallation';
import { applySight } from './repeatable';
import * as schema from './schema';
import { refusing, returnConnections } from './transactions';

// bigint and numeric come as numbers: ids stay far below 2^53, amounts are sums of money.
const setParser = pg.types.setTypeParser as (oid: number, parse: (text: string) => unknown) => void;
const BIGINT = 20;
const NUMERIC = 1700;
const BIGINT_ARRAY = 1016;
setParser(BIGINT, Number);
setParser(NUMERIC, Number);
setParser(BIGINT_ARRAY, (text) => (text === '{}' ? [] : text.slice(1, -1).split(',').map(Number)));

export type Db = NodePgDatabase<typeof schema>;
export type Tx = Parameters<Parameters<Db['transaction']>[0]>[0];

/** The two ways into the database, each by a role that row security binds. */
export interface Database {
  /** Requests of people: {@link Database.as} sets the acting user. Outside of it no mail and no records are seen. */
  app: Db;
  appPool: pg.Pool;
  /** Ingest and decision. Serves no request. */
  worker: Db;
  workerPool: pg.Pool;
  /** Runs `work` in a transaction that acts for the user; what it wrote is undone when it throws or gives back a refusal. */
  as<T>(userId: number, work: (tx: Tx) => Promise<T>): Promise<T>;
  /** Runs `work` in a transaction of the worker; what it wrote is undone when it throws or gives back a refusal. */
  work<T>(work: (tx: Tx) => Promise<T>, config?: PgTransactionConfig): Promise<T>;
  close(): Promise<void>;
}

export interface DatabaseOptions {
  /** Connection string of a role that may create tables and roles. */
  ownerUrl: string;
  /** Secret of the installation; the passwords of the two roles are derived from it. */
  secret: string;
  migrationsFolder: string;
  poolSize?: number;
}

const MOST_TRIES = 50;
/** So long a request waits for a connection; then the database counts as away. */
const CONNECT_MS = 30_000;
const ROLES = ['fulvet_app', 'fulvet_worker'] as const;

/**
 * Brings the database to the newest migration and connects by the two bound roles.
 *
 * @throws when the server cannot be reached or the owner may not create roles; the message says how to fix it
 */
export async function openDatabase(options: DatabaseOptions): Promise<Database> {
  const owner = new pg.Pool({ connectionString: options.ownerUrl, max: 1 });
  try {
    const client = await owner.connect();
    try {
      // Several processes may start at once; one migrates, the others wait.
      await client.query('SELECT pg_advisory_lock(460201)');
      await demandKnownSchema(client, options.migrationsFolder);
      await migrate(drizzle(client, { casing: 'snake_case' }), { migrationsFolder: options.migrationsFolder });
      await applySight(client, options.migrationsFolder);
      await claimRoles(client, ROLES, options.secret);
      for (const role of ROLES) await setPassword(client, role, rolePassword(options.secret, role));
      await client.query('SELECT pg_advisory_unlock(460201)');
    } finally {
      client.release();
    }
  } finally {
    await owner.end();
  }
  const [appPool, workerPool] = ROLES.map((role) => boundPool(options, role)) as [pg.Pool, pg.Pool];
  const app = returnConnections(drizzle(appPool, { schema, casing: 'snake_case' }), appPool);
  const worker = returnConnections(drizzle(workerPool, { schema, casing: 'snake_case' }), workerPool);
  return {
    app,
    appPool,
    worker,
    workerPool,
    as: (userId, work) =>
      refusing(app, async (tx) => {
        await tx.execute(`SELECT set_config('fulvet.user_id', '${String(Math.trunc(userId))}', true)`);
        return work(tx);
      }),
    work: (work, config) => refusing(worker, work, config),
    close: async () => {
      await Promise.all([appPool.end(), workerPool.end()]);
    },
  };
}

/** Roles are the cluster's: where another of its databases is opened at the same moment, PostgreSQL refuses one of the two, which tries again. */
async function setPassword(client: pg.PoolClient, role: string, password: string): Promise<void> {
  for (let tries = 1; ; tries += 1) {
    try {
      await client.query(`ALTER ROLE ${role} LOGIN PASSWORD '${password}'`);
      return;
    } catch (error) {
      const isRace = error instanceof pg.DatabaseError && error.message.includes('concurrently updated');
      if (!isRace || tries === MOST_TRIES) throw error;
    }
  }
}

function boundPool(options: DatabaseOptions, role: (typeof ROLES)[number]): pg.Pool {
  const url = new URL(options.ownerUrl);
  url.username = role;
  url.password = rolePassword(options.secret, role);
  const pool = new pg.Pool({ connectionString: url.href, max: options.poolSize ?? 8, connectionTimeoutMillis: CONNECT_MS });
  // One that breaks while it is in use fails what was asked of it; without a listener it would end the process.
  pool.on('connect', (client) => client.on('error', () => undefined));
  // An idle connection that breaks is replaced by the pool; without a listener it would end the process.
  pool.on('error', () => undefined);
  return pool;
}

function rolePassword(secret: string, role: string): string {
  return createHmac('sha256', secret).update(`database role ${role}`).digest('hex');
}
