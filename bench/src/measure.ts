import type { Services } from '@fulvet/server';
import { closeServices, openServices } from '@fulvet/server';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { EMPTY, newTestDatabase } from '../../server/src/testing/testDatabase';

/** An empty installation of its own, without a web server; `remove` leaves nothing of it. */
export async function newInstallation(): Promise<{ services: Services; remove: () => Promise<void> }> {
  const dataFolder = await mkdtemp(join(tmpdir(), 'fulvet-bench-'));
  const { ownerUrl, drop } = await newTestDatabase();
  const services = await openServices({
    ...EMPTY,
    ownerUrl,
    dataFolder,
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

/** The middle and the slowest of some rounds, milliseconds. */
export interface Times {
  middle: number;
  slowest: number;
}

/** How long work takes, round after round. */
export async function timesOf(rounds: number, work: () => Promise<unknown>): Promise<Times> {
  const taken: number[] = [];
  for (let round = 0; round < rounds; round += 1) {
    const from = performance.now();
    await work();
    taken.push(performance.now() - from);
  }
  taken.sort((first, second) => first - second);
  return { middle: taken[Math.floor(rounds / 2)] ?? 0, slowest: taken.at(-1) ?? 0 };
}
