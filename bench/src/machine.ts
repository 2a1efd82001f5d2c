import { report } from './measure';
import { machineFigures, machineMail } from './world/machineMail';

const COUNT = Number(process.env.BENCH_MAIL ?? 6000);
const SEED = Number(process.env.BENCH_SEED ?? 1);

/** How much mail of machines is found without the headers that say so, and how many emails of people are taken for it. */
async function main(): Promise<void> {
  const { found, alarms, people, missed } = await machineFigures(machineMail(SEED, COUNT));
  report(`Mail of machines without their headers: ${COUNT} emails, seed ${SEED}`, [
    ...[...found].map(([kind, { found: count, of }]) => [kind, `${count} of ${of} (${((100 * count) / of).toFixed(1)} %)`] as const),
    ['emails of people taken for it', `${alarms.length} of ${people}`],
  ]);
  if (process.env.BENCH_SHOW) for (const line of [...new Set([...alarms, ...missed])].slice(0, 60)) process.stdout.write(`  ${line}\n`);
}

await main();
