import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { randomFrom, SightWorld } from '../testing/sightWorld';

let world: SightWorld;

beforeAll(async () => {
  world = await SightWorld.make();
}, 60_000);
afterAll(() => world.remove());

const WORLDS = Number(process.env.SIGHT_WORLDS ?? 24);
const SEED = Number(process.env.SIGHT_SEED ?? 7);

test(`in ${WORLDS} random worlds every way out gives what a plain model says, and nothing else`, async () => {
  const random = randomFrom(SEED);
  const done: string[] = [];
  for (let at = 0; at < WORLDS; at += 1) {
    done.push(`— world ${at}`, ...(await world.change(random, 1 + Math.floor(random() * 3))));
    const found = [...(await world.differences(random)), ...(at % 20 === 0 ? await world.trialDifferences() : [])];
    expect({ found, after: found.length > 0 ? done.slice(-40) : [] }).toEqual({ found: [], after: [] });
  }
}, 600_000);
