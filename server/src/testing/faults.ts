import { spawnSync } from 'node:child_process';
import { closeSync, mkdirSync, mkdtempSync, openSync, rmSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';

/** Ends all connections to a database and lets none in while the work goes on, as a database that restarts does. */
export async function withDatabaseAway<T>(ownerUrl: string, work: () => Promise<T>): Promise<T> {
  const name = new URL(ownerUrl).pathname.slice(1);
  const admin = new pg.Client({ connectionString: process.env.FULVET_TEST_URL });
  await admin.connect();
  try {
    await admin.query(`ALTER DATABASE ${name} ALLOW_CONNECTIONS false`);
    await admin.query('SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = $1', [name]);
    return await work();
  } finally {
    await admin.query(`ALTER DATABASE ${name} ALLOW_CONNECTIONS true`);
    await admin.end();
  }
}

/** Whether this machine lets us make a disk of our own. */
export const canMakeDisks = (): boolean =>
  process.getuid?.() === 0 && spawnSync('sh', ['-c', 'd=$(mktemp -d) && mount -t tmpfs -o size=1m none $d && umount $d']).status === 0;

/** A disk of 6 MB with 2 MB free until room is made on it. */
export class FullDisk {
  readonly folder = mkdtempSync(join(tmpdir(), 'fulvet-full-'));
  readonly blobs = join(this.folder, 'blobs');

  constructor() {
    const mounted = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=6m', 'none', this.folder]);
    if (mounted.status !== 0) throw new Error(`The disk could not be made: ${String(mounted.stderr)}`);
    mkdirSync(this.blobs);
    const filler = openSync(join(this.folder, 'filler'), 'w');
    writeSync(filler, Buffer.alloc(4 * 1024 * 1024));
    closeSync(filler);
  }

  makeRoom(): void {
    rmSync(join(this.folder, 'filler'));
  }

  remove(): void {
    spawnSync('umount', [this.folder]);
    rmSync(this.folder, { recursive: true, force: true });
  }
}
