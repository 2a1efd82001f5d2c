import { connect, MAIL_PASSWORD, until } from '../../server/src/testing/mailboxTools';
import { owner, setUpCrew } from '../../server/src/testing/testServer';
import { allSettled, compareWithMailbox, fillMailbox, openWorkerStage, storedCount } from '../../server/src/testing/workerCrew';
import { report } from './measure';

const EMAILS = 20_000;
const KILLS = 20;
const ADDRESS = 'rep@quillmere.example';

/** A worker killed without warning at twenty random points of reading back 20,000 emails; then what is stored is compared with the mailbox. */
async function main(): Promise<void> {
  const stage = await openWorkerStage();
  try {
    const crew = await setUpCrew(stage.server);
    let worker = await stage.addWorker();
    stage.mailhost.store.addAccount(ADDRESS, MAIL_PASSWORD);
    fillMailbox(stage.mailhost, ADDRESS, 'long', EMAILS);
    await connect(stage, { token: crew.tokens.admin, address: ADDRESS, settings: { readSinceDays: null } });
    const points = Array.from({ length: KILLS }, () => Math.floor(Math.random() * EMAILS * 0.95) + 50).sort(
      (first, second) => first - second,
    );
    const start = performance.now();
    for (const point of points) {
      await until(
        () => storedCount(stage, ADDRESS),
        (count) => count >= point,
        600_000,
      );
      await stage.kill(worker);
      // Waiting for leases to run out would only make the run longer.
      await owner(stage.server.ownerUrl, `UPDATE mailboxes SET lease_until = now() - interval '1 second' WHERE lease_until IS NOT NULL`);
      worker = await stage.addWorker();
    }
    await allSettled(stage, 600_000);
    const { lost, doubled, stray } = await compareWithMailbox(stage, ADDRESS);
    report('a worker killed in the middle', [
      ['emails', String(EMAILS)],
      ['killed (SIGKILL)', `${KILLS} times, at ${points.join(', ')}`],
      ['time, restarts included', `${((performance.now() - start) / 1000).toFixed(0)} s`],
      ['lost, doubled, stray', `${lost}, ${doubled}, ${stray} (goal 0, 0, 0)`],
    ]);
    if (lost + doubled + stray > 0) process.exitCode = 1;
  } finally {
    await stage.close();
  }
}

await main();
