import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { ChildProcess } from 'node:child_process';
import { connect, MAIL_PASSWORD, until } from '../../testing/mailboxTools';
import type { Crew } from '../../testing/testServer';
import { owner, setUpCrew } from '../../testing/testServer';
import type { WorkerStage } from '../../testing/workerCrew';
import { allSettled, compareWithMailbox, fillMailbox, openWorkerStage, storedCount } from '../../testing/workerCrew';

let stage: WorkerStage;
let crew: Crew;
let workers: ChildProcess[];
const NOTHING_WRONG = { lost: 0, doubled: 0, stray: 0 };

beforeAll(async () => {
  stage = await openWorkerStage();
  crew = await setUpCrew(stage.server);
  workers = await Promise.all([stage.addWorker(), stage.addWorker(), stage.addWorker()]);
}, 60_000);
afterAll(() => stage.close());

const holders = async (): Promise<Record<string, string>> =>
  Object.fromEntries(
    (
      await owner(stage.server.ownerUrl, `SELECT address, split_part(lease_holder, ':', 2) AS pid FROM mailboxes WHERE lease_until > now()`)
    ).map((row) => [String(row.address), String(row.pid)]),
  );

describe('three worker processes', () => {
  test('share the mailboxes; when one is killed in the middle, the others go on with its own, and nothing is lost or doubled', async () => {
    const addresses = ['one', 'two', 'three', 'four', 'five', 'six'].map((name) => `${name}@quillmere.example`);
    for (const address of addresses) {
      stage.mailhost.store.addAccount(address, MAIL_PASSWORD);
      fillMailbox(stage.mailhost, address, address.slice(0, address.indexOf('@')), 400);
    }
    stage.mailhost.faults.set({ delayMs: 25 });
    for (const address of addresses) await connect(stage, { token: crew.tokens.admin, address, settings: { readSinceDays: null } });
    // However slow the machine, and however the processes came to share them: a worker is reading some.
    const isWorkers = (pid: string): boolean => workers.some((worker) => String(worker.pid) === pid);
    const busy = await until(holders, (held) => Object.values(held).some(isWorkers), 90_000);
    const victim = workers.find((worker) => Object.values(busy).includes(String(worker.pid)));
    if (!victim) throw new Error(`no one works: ${JSON.stringify(busy)}`);
    const orphans = addresses.filter((address) => busy[address] === String(victim.pid));
    await stage.kill(victim);
    stage.mailhost.faults.clear();
    await allSettled(stage, 90_000);
    const after = await holders();
    expect(orphans.length).toBeGreaterThan(0);
    for (const address of orphans) expect(after[address]).not.toBe(String(victim.pid));
    for (const address of addresses) expect(await compareWithMailbox(stage, address)).toEqual(NOTHING_WRONG);
  }, 240_000);

  test('a worker killed three times at random points of a backfill loses and doubles nothing', async () => {
    const address = 'long@quillmere.example';
    const total = 3000;
    for (const worker of workers) await stage.kill(worker);
    let worker = await stage.addWorker();
    stage.mailhost.store.addAccount(address, MAIL_PASSWORD);
    fillMailbox(stage.mailhost, address, 'long', total);
    await connect(stage, { token: crew.tokens.admin, address, settings: { readSinceDays: null } });
    const points = [0, 1, 2].map((third) => Math.floor((third + Math.random()) * (total / 4)) + 20);
    for (const point of points) {
      await until(
        () => storedCount(stage, address),
        (count) => count >= point,
        60_000,
      );
      await stage.kill(worker);
      // What the dead worker held runs out by itself; the test only shortens the wait.
      await owner(stage.server.ownerUrl, `UPDATE mailboxes SET lease_until = now() - interval '1 second' WHERE lease_until IS NOT NULL`);
      worker = await stage.addWorker();
    }
    await allSettled(stage, 90_000);
    expect({ points, ...(await compareWithMailbox(stage, address)) }).toEqual({ points, ...NOTHING_WRONG });
    expect(await storedCount(stage, address)).toBeGreaterThanOrEqual(total);
  }, 240_000);
});
