import { expect, test } from '@jest/globals';
import { Random } from '@fulvet/demo';
import { setUpCrew, startTestServer } from '../../server/src/testing/testServer';
import { Life } from './world/life';

const STEPS = 32;

test('whatever happens to mail and records is followed: deciding past mail again would change nothing', async () => {
  const server = await startTestServer();
  try {
    const life = new Life(server, await setUpCrew(server), new Random(31));
    await life.begin();
    for (let step = 1; step <= STEPS; step += 1) {
      await life.step();
      expect({ stale: await life.staleNow(), after: life.told.at(-1) }).toEqual({ stale: [], after: expect.anything() });
    }
    expect(life.told.filter((value) => value.startsWith('mail of')).length).toBeGreaterThan(2);
    expect(life.told.filter((value) => value.includes('→ 200')).length).toBeGreaterThan(STEPS / 3);
  } finally {
    await server.remove();
  }
}, 240_000);
