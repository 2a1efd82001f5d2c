import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root, StartError } from './run.mjs';

/** The secret of the installation, made at the first start; the passwords of database roles and cookie keys come from it. */
export function installationSecret(home) {
  const file = join(home, 'secret.key');
  mkdirSync(home, { recursive: true, mode: 0o700 });
  if (!existsSync(file)) writeFileSync(file, randomBytes(32).toString('hex'), { mode: 0o600 });
  return readFileSync(file, 'utf8').trim();
}

export function productVersion() {
  return JSON.parse(readFileSync(join(root, 'package.json'), 'utf8')).version;
}

/** Makes a database when it is not there, or again. @returns true when it was made */
export async function ensureDatabase(adminUrl, name, { isFresh = false } = {}) {
  const { default: pg } = await import('pg');
  const client = new pg.Client({ connectionString: adminUrl });
  await client.connect();
  try {
    if (isFresh) await client.query(`DROP DATABASE IF EXISTS ${name} WITH (FORCE)`);
    const there = await client.query('SELECT FROM pg_database WHERE datname = $1', [name]);
    if (there.rowCount > 0) return false;
    await client.query(`CREATE DATABASE ${name} ENCODING 'UTF8' TEMPLATE template0`);
    return true;
  } finally {
    await client.end();
  }
}

/**
 * Takes the installation for this process. One that runs already is named with its address.
 *
 * @returns functions to note the address and to release it
 */
export async function takeInstallation(home) {
  const file = join(home, 'running.json');
  const self = { pid: process.pid, began: beganAt(process.pid) };
  mkdirSync(home, { recursive: true, mode: 0o700 });
  for (;;) {
    try {
      writeFileSync(file, JSON.stringify(self), { flag: 'wx' });
      break;
    } catch (error) {
      if (error.code !== 'EEXIST') throw error;
      const other = readRunning(file);
      if (other && isRunning(other)) {
        throw new StartError(
          other.url
            ? `Fulvet is running already: ${other.url} (process ${other.pid}).\nStop it with Ctrl-C in its window, or: kill ${other.pid}`
            : `Fulvet is being started already by process ${other.pid}.`,
        );
      }
      rmSync(file, { force: true });
    }
  }
  return {
    note: (url) => writeFileSync(file, JSON.stringify({ ...self, url })),
    letGo: () => {
      if (readRunning(file)?.pid === process.pid) rmSync(file, { force: true });
    },
  };
}

function readRunning(file) {
  try {
    return JSON.parse(readFileSync(file, 'utf8'));
  } catch {
    return null;
  }
}

/** The same process, however busy, and whether or not its database answers; not another that got its number since. */
function isRunning({ pid, began }) {
  if (!pid || pid === process.pid) return false;
  try {
    process.kill(pid, 0);
  } catch (error) {
    if (error.code !== 'EPERM') return false;
  }
  const now = beganAt(pid);
  return began === undefined || began === null || now === null || began === now;
}

/** When a process began, as the kernel counts it; null where that cannot be known. */
function beganAt(pid) {
  try {
    const text = readFileSync(`/proc/${pid}/stat`, 'utf8');
    return text.slice(text.lastIndexOf(')') + 2).split(' ')[19] ?? null;
  } catch {
    return null;
  }
}
