import { Random } from '@fulvet/demo';
import { setUpCrew, startTestServer } from '../../server/src/testing/testServer';
import { report } from './measure';
import { Life } from './world/life';

const STEPS = Number(process.env.BENCH_STEPS ?? 60);
const SEED = Number(process.env.BENCH_SEED ?? 1);
const SEEDS = Number(process.env.BENCH_SEEDS ?? 4);

/** Lives some lives, and tells after each step whether deciding past mail again would change anything: it never should. */
async function main(): Promise<void> {
  for (let seed = SEED; seed < SEED + SEEDS; seed += 1) {
    const server = await startTestServer();
    const life = new Life(server, await setUpCrew(server), new Random(seed));
    await life.begin();
    let stale: string[] = [];
    let steps = 0;
    while (stale.length === 0 && steps < STEPS) {
      await life.step();
      stale = await life.staleNow();
      steps += 1;
    }
    report(`Life ${seed}`, [
      ['things done', String(life.told.length)],
      ['refused', String(life.told.filter((value) => / → 4\d\d/.test(value)).length)],
      ['emails that were not followed', String(stale.length)],
    ]);
    if (stale.length > 0) process.stdout.write(`${life.told.join('\n')}\n${stale.join('\n')}\n`);
    await server.remove();
  }
}

await main();
process.exit(0);
