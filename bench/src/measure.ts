import type { Services } from '@fulvet/server';
import { closeServices, openServices } from '@fulvet/server';
import { randomBytes } from 'node:crypto';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';

/** A database of its own on the cluster of the benchmark run. */
export async function newDatabase(): Promise<{ ownerUrl: string; drop: () => Promise<void> }> {
  const clusterUrl = process.env.FULVET_TEST_URL;
  if (!clusterUrl) throw new Error('FULVET_TEST_URL is not set. Run the benchmarks by npm run bench.');
  const name = `bench_${randomBytes(5).toString('hex')}`;
  const run = async (statement: string): Promise<void> => {
    const client = new pg.Client({ connectionString: clusterUrl });
    await client.connect();
    await client.query(statement);
    await client.end();
  };
  await run(`CREATE DATABASE ${name}`);
  const url = new URL(clusterUrl);
  url.pathname = `/${name}`;
  return { ownerUrl: url.href, drop: () => run(`DROP DATABASE ${name} WITH (FORCE)`) };
}

/** An empty installation of its own, without a web server; `remove` leaves nothing of it. */
export async function newInstallation(): Promise<{ services: Services; remove: () => Promise<void> }> {
  const dataFolder = await mkdtemp(join(tmpdir(), 'fulvet-bench-'));
  const { ownerUrl, drop } = await newDatabase();
  const services = await openServices({
    ownerUrl,
    dataFolder,
    // The roles are the cluster's, and their passwords come of this: the same as the server tests', which may run beside it.
    secret: 'test secret',
    migrationsFolder: join(process.cwd(), 'server', 'migrations'),
    version: '0',
  });
  const remove = async (): Promise<void> => {
    await closeServices(services);
    await drop();
    await rm(dataFolder, { recursive: true, force: true });
  };
  return { services, remove };
}

/** Prints figures under a title. */
export function report(title: string, figures: readonly (readonly [string, string])[]): void {
  process.stdout.write(`\n${title}\n${figures.map(([name, value]) => `  ${name.padEnd(28)} ${value}`).join('\n')}\n`);
}
