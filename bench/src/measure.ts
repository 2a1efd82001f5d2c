import { randomBytes } from 'node:crypto';
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

/** Prints figures under a title. */
export function report(title: string, figures: readonly (readonly [string, string])[]): void {
  process.stdout.write(`\n${title}\n${figures.map(([name, value]) => `  ${name.padEnd(28)} ${value}`).join('\n')}\n`);
}
