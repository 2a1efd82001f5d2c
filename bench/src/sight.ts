import { randomFrom, SightWorld } from '../../server/src/testing/sightWorld';
import { report } from './measure';

const WORLDS = Number(process.env.BENCH_WORLDS ?? 10_000);
const SEED = Number(process.env.BENCH_SEED ?? 1);
const TOLD_EVERY = 500;

/**
 * Many random worlds of teams, shares, seals, grants, transfers and emergencies, each compared by every way out with a plain model of who may see what. The
 * figure that counts is the number of differences: none. A new installation is begun after some worlds, so that they do not all grow from one.
 */
async function main(): Promise<void> {
  const random = randomFrom(SEED);
  let different = 0;
  const from = performance.now();
  for (let at = 0; at < WORLDS;) {
    const world = await SightWorld.make();
    try {
      for (let of = 0; of < TOLD_EVERY && at < WORLDS; of += 1, at += 1) {
        const done = await world.change(random, 1 + Math.floor(random() * 3));
        const found = [...(await world.differences(random)), ...(at % 50 === 0 ? await world.trialDifferences() : [])];
        if (found.length === 0) continue;
        different += 1;
        process.stdout.write(`world ${at}, after ${done.join('; ')}:\n  ${found.join('\n  ')}\n`);
      }
    } finally {
      await world.remove();
    }
    process.stdout.write(`${at} worlds compared, ${different} of them different\n`);
  }
  report(`who sees what, in ${WORLDS} random worlds of seed ${SEED}`, [
    ['worlds that differ from the plain model', `${different}`],
    ['a world', `${((performance.now() - from) / WORLDS).toFixed(0)} ms`],
  ]);
  if (different > 0) process.exitCode = 1;
}

await main();
