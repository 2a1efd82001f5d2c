import { mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { backUp } from './backup.mjs';
import { programs } from './postgres.mjs';
import { root } from './run.mjs';

const KEPT = 3;

/** Backs an installation that is in use up before a new version changes its tables; the newest three such backups are kept. */
export async function backUpBeforeUpgrade({ ownerUrl, dataFolder, home }) {
  const waiting = await waitingMigrations(ownerUrl);
  if (waiting === 0) return;
  const folder = join(home, 'backups');
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const target = join(folder, `before-upgrade-${new Date().toISOString().replace(/[:.]/g, '-')}.tar`);
  process.stdout.write(`A new version changes the tables (${waiting} steps). Backing up into ${target} …\n`);
  await backUp({
    bin: await programs(),
    ownerUrl,
    dataFolder,
    secretFile: join(home, 'secret.key'),
    keyFile: process.env.FULVET_KEY_FILE ?? join(dataFolder, 'mail-keys.json'),
    target,
  });
  const made = readdirSync(folder)
    .filter((name) => name.startsWith('before-upgrade-'))
    .sort();
  for (const name of made.slice(0, -KEPT)) rmSync(join(folder, name), { force: true });
}

/** How many migrations an installation in use lacks; 0 for a new one. */
async function waitingMigrations(ownerUrl) {
  const { default: pg } = await import('pg');
  const client = new pg.Client({ connectionString: ownerUrl });
  await client.connect();
  try {
    const there = await client.query(
      `SELECT to_regclass('drizzle.__drizzle_migrations') IS NOT NULL AND to_regclass('public.users') IS NOT NULL AS used`,
    );
    if (!there.rows[0].used || (await client.query('SELECT FROM users LIMIT 1')).rowCount === 0) return 0;
    const { rows } = await client.query('SELECT coalesce(max(created_at), 0)::float8 AS newest FROM drizzle.__drizzle_migrations');
    const journal = JSON.parse(readFileSync(join(root, 'server', 'migrations', 'meta', '_journal.json'), 'utf8'));
    return journal.entries.filter((entry) => entry.when > rows[0].newest).length;
  } finally {
    await client.end();
  }
}
