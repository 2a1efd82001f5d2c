import { randomBytes } from 'node:crypto';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import type { ServiceOptions } from '../openServices';
import { closeServices, openServices } from '../openServices';

/** What an empty installation of the tests and benchmarks is opened with; they run in the checkout. The roles' passwords come of the secret. */
export const EMPTY = {
  secret: 'test secret',
  migrationsFolder: join(process.cwd(), 'server', 'migrations'),
  version: '0.0.0',
  logLevel: process.env.FULVET_LOG ?? 'silent',
} satisfies Partial<ServiceOptions>;

/** Where the test cluster is (FULVET_TEST_URL). */
export function testCluster(): string {
  const url = process.env.FULVET_TEST_URL;
  if (!url) throw new Error('FULVET_TEST_URL is not set. Run the tests by npm test, the benchmarks by npm run bench.');
  return url;
}

/** A new database on the test cluster: of an empty installation, or a copy of another database that no one uses. */
export async function newTestDatabase(copyOf?: string): Promise<{ name: string; ownerUrl: string; drop: () => Promise<void> }> {
  const clusterUrl = testCluster();
  const name = `test_${randomBytes(6).toString('hex')}`;
  await owner(clusterUrl, `CREATE DATABASE ${name} TEMPLATE ${copyOf ?? (await templateOf(clusterUrl))}`);
  const url = new URL(clusterUrl);
  url.pathname = `/${name}`;
  return {
    name,
    ownerUrl: url.href,
    drop: async () => {
      await letGo(url.href);
      await owner(clusterUrl, `DROP DATABASE ${name} WITH (FORCE)`);
    },
  };
}

/** The database that an empty installation begins with, brought up to date once for all tests of the cluster. */
async function templateOf(clusterUrl: string): Promise<string> {
  const template = 'template_fulvet';
  const client = new pg.Client({ connectionString: clusterUrl });
  await client.connect();
  try {
    await client.query('SELECT pg_advisory_lock(460900)');
    const { rowCount } = await client.query('SELECT FROM pg_database WHERE datname = $1', [template]);
    if (rowCount) return template;
    const building = `${template}_building`;
    await client.query(`DROP DATABASE IF EXISTS ${building} WITH (FORCE)`);
    await client.query(`CREATE DATABASE ${building}`);
    const url = new URL(clusterUrl);
    url.pathname = `/${building}`;
    const dataFolder = await mkdtemp(join(tmpdir(), 'fulvet-data-'));
    const services = await openServices({ ...EMPTY, ownerUrl: url.href, dataFolder });
    await closeServices(services);
    await rm(dataFolder, { recursive: true, force: true });
    await client.query(`ALTER DATABASE ${building} RENAME TO ${template}`);
    return template;
  } finally {
    await client.end();
  }
}

/** Signing in to a database costs more than most statements: connections are kept for as long as they are asked for. */
const pools = new Map<string, pg.Pool>();

function poolOf(url: string): pg.Pool {
  const found = pools.get(url);
  if (found) return found;
  const pool = new pg.Pool({ connectionString: url, max: 2, idleTimeoutMillis: 500, allowExitOnIdle: true });
  // A database is dropped while connections to it are kept.
  pool.on('error', () => undefined);
  pools.set(url, pool);
  return pool;
}

/** Ends what is kept of connections to a database: it is to be renamed or dropped. */
export async function letGo(url: string): Promise<void> {
  await pools.get(url)?.end();
  pools.delete(url);
}

/** Runs one statement as the owner. */
export async function owner(url: string, statement: string, values: unknown[] = []): Promise<Record<string, unknown>[]> {
  const client = await poolOf(url).connect();
  try {
    return (await client.query(statement, values)).rows as Record<string, unknown>[];
  } finally {
    client.release();
  }
}
