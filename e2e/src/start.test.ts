import { afterAll, describe, expect, test } from '@jest/globals';
import type { ChildProcess } from 'node:child_process';
import { spawn, spawnSync } from 'node:child_process';
import { chmodSync, existsSync, mkdtempSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

// Installations of their own, started by the command that people use.
const homes: string[] = [];
const running = new Set<ChildProcess>();

afterAll(() => {
  for (const child of running) child.kill('SIGKILL');
  for (const home of homes) {
    const place = note(home)?.folder;
    if (place && existsSync(join(place, 'postmaster.pid')))
      spawnSync('kill', ['-QUIT', readFileSync(join(place, 'postmaster.pid'), 'utf8').split('\n')[0] ?? '']);
    rmSync(home, { recursive: true, force: true });
  }
});

function newHome(): string {
  const home = mkdtempSync(join(tmpdir(), 'fulvet-home-'));
  chmodSync(home, 0o755);
  homes.push(home);
  return home;
}

function note(home: string): { folder: string; port: number } | null {
  const file = join(home, 'cluster.json');
  return existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as { folder: string; port: number }) : null;
}

interface Started {
  child: ChildProcess;
  said: () => string;
  ended: Promise<number>;
}

function start(home: string, env: Record<string, string> = {}, args: readonly string[] = ['--empty']): Started {
  const child = spawn(process.execPath, ['scripts/start.mjs', ...args], {
    env: { PATH: process.env.PATH ?? '', HOME: process.env.HOME ?? '', FULVET_HOME: home, PORT: '0', ...env },
  });
  running.add(child);
  let said = '';
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (piece: Buffer) => (said += piece.toString()));
  const ended = new Promise<number>((resolve) => child.on('close', (code) => resolve(code ?? -1))).finally(() => running.delete(child));
  return { child, said: () => said, ended };
}

/** Waits until it has said where it is. */
async function up(started: Started): Promise<string> {
  const address = /Fulvet is at (\S+)/;
  await new Promise<void>((resolve, reject) => {
    const look = (): void => {
      if (address.test(started.said())) resolve();
    };
    for (const stream of [started.child.stdout, started.child.stderr]) stream?.on('data', look);
    void started.ended.then(() => reject(new Error(started.said())));
    look();
  });
  return address.exec(started.said())?.[1] ?? '';
}

async function stop(started: Started): Promise<number> {
  started.child.kill('SIGINT');
  return started.ended;
}

describe('the private database of an installation', () => {
  const home = newHome();

  test('has its place and its port written down, and has them again', async () => {
    const first = start(home);
    const url = await up(first);
    expect((await fetch(`${url}/readyz`)).status).toBe(200);
    const place = note(home);
    expect(place).toEqual({ folder: expect.stringContaining('postgres'), port: expect.any(Number) });
    expect(await stop(first)).toBe(0);
    const second = start(home);
    await up(second);
    expect(note(home)).toEqual(place);
    expect(await stop(second)).toBe(0);
  });

  test('is not taken over by a second start while it does not answer', async () => {
    const first = start(home);
    const url = await up(first);
    const place = note(home);
    const pid = Number(readFileSync(join(place?.folder ?? '', 'postmaster.pid'), 'utf8').split('\n')[0]);
    process.kill(pid, 'SIGQUIT');
    for (let status = 200; status !== 503;) status = (await fetch(`${url}/readyz`)).status;
    const second = start(home);
    expect(await second.ended).toBe(1);
    expect(second.said()).toContain(`Fulvet is running already: ${url}`);
    const began = Date.now();
    await stop(first);
    expect(Date.now() - began).toBeLessThan(15_000);
  });

  test('that is gone, belongs to someone else or has no port is a sentence with the remedy, and never an empty one instead', async () => {
    const { folder, port } = note(home) ?? { folder: '', port: 0 };
    const fails = async (): Promise<string> => {
      const started = start(home);
      expect(await started.ended).toBe(1);
      return started.said();
    };
    renameSync(folder, `${folder}.elsewhere`);
    expect(await fails()).toMatch(
      /is not there now\. Put it back, or restore a backup\. To begin with an empty one, remove .*cluster\.json/,
    );
    expect(existsSync(folder)).toBe(false);
    renameSync(`${folder}.elsewhere`, folder);

    const other = spawn(process.execPath, [
      '-e',
      `require('node:net').createServer().listen(${port}, '127.0.0.1', () => console.log('taken'))`,
    ]);
    await new Promise((resolve) => other.stdout.once('data', resolve));
    expect(await fails()).toMatch(
      new RegExp(`Port ${port}, which the private PostgreSQL uses, is taken by another program.*cluster\\.json`),
    );
    other.kill();

    writeFileSync(join(home, 'cluster.json'), '{');
    expect(await fails()).toMatch(/cannot be read\. Nothing was changed\. Correct it/);
    writeFileSync(join(home, 'cluster.json'), JSON.stringify({ folder, port }));

    if (process.getuid?.() !== 0) return;
    spawnSync('chown', ['-R', 'nobody', folder]);
    expect(await fails()).toMatch(
      /belongs to the user nobody, and PostgreSQL runs as postgres\. Nothing was changed\. Run as root: chown -R postgres/,
    );
    spawnSync('chown', ['-R', 'postgres', folder]);
    chmodSync(home, 0o700);
    expect(await fails()).toMatch(/may not enter a folder above it\. Nothing was changed\. Run: chmod o\+x/);
    expect(note(home)).toEqual({ folder, port });
    chmodSync(home, 0o755);
  });

  test('comes up where its last process left a stale file, and says whose process is in the way', async () => {
    const { folder } = note(home) ?? { folder: '' };
    const file = join(folder, 'postmaster.pid');
    writeFileSync(file, '999999\n');
    if (process.getuid?.() === 0) spawnSync('chown', ['postgres', file]);
    const started = start(home);
    await up(started);
    expect(await stop(started)).toBe(0);
  });
});

test('the demo world never goes into a database of one’s own', async () => {
  const started = start(newHome(), { DATABASE_URL: 'postgresql://someone@127.0.0.1:1/theirs' }, []);
  expect(await started.ended).toBe(1);
  expect(started.said()).toMatch(/DATABASE_URL names a database of your own.*Nothing was changed.*npm start -- --empty/s);
});
