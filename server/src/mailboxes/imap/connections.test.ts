import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { MailStage } from '../../testing/mailboxTools';
import { connect, MAIL_PASSWORD, openMailStage, putMail, storedOf, until } from '../../testing/mailboxTools';
import type { Crew } from '../../testing/testServer';
import { setUpCrew } from '../../testing/testServer';

const MOST = 2;
const addresses = ['one', 'two', 'three', 'four', 'five'].map((name) => `${name}@quillmere.example`);
let stage: MailStage;
let crew: Crew;

beforeAll(async () => {
  stage = await openMailStage({ turnLimits: { lookMs: 500, restMs: 300 } }, { connections: MOST });
  crew = await setUpCrew(stage.server);
});
afterAll(() => stage.close());

test('more mailboxes than a provider allows connections take turns, and all are read', async () => {
  for (const address of addresses) {
    stage.mailhost.store.addAccount(address, MAIL_PASSWORD);
    await connect(stage, { token: crew.tokens.admin, address });
  }
  for (const address of addresses) putMail(stage.mailhost, address, { id: `to-${address}`, from: 'ida@harbour.example', to: address });
  const counts: number[] = [];
  for (const address of addresses)
    await until(
      async () => {
        counts.push(stage.mailhost.connectionCount());
        return storedOf(stage.server, address);
      },
      (all) => all.some((item) => item.id === `to-${address}`),
      40_000,
    );
  expect(counts.length).toBeGreaterThan(0);
  expect(Math.max(...counts)).toBeLessThanOrEqual(MOST);
}, 120_000);
