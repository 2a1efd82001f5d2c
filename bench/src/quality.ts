import { Random } from '@fulvet/demo';
import { report } from './measure';
import { CASES } from './world/answerCases';
import { FIGURES, figuresOf } from './world/answerFigures';
import { AnswerWorld } from './world/answerWorld';

const OF_EACH = Number(process.env.BENCH_OF_EACH ?? 6);
const SEED = Number(process.env.BENCH_SEED ?? 1);
const ONLY = process.env.BENCH_CASE ?? '';
const ORDER = process.env.BENCH_ORDER === 'one by one' ? 'one by one' : 'at once';

/** How many filings, creations and questions are right in a world of mail of which it is known what is right. */
async function main(): Promise<void> {
  const world = new AnswerWorld(new Random(SEED), Date.now());
  const cases = Object.entries(CASES).filter(([of]) => of.includes(ONLY));
  for (const [of, write] of cases) for (let at = 0; at < OF_EACH; at += 1) write(world, of);
  const figures = await figuresOf(world, ORDER);
  report(
    `${world.sent.length} emails of ${cases.length} cases, seed ${SEED}, mailboxes read ${ORDER}`,
    FIGURES.map((name) => [name, String(figures.count(name))]),
  );
  for (const name of FIGURES.filter((one) => /wrong|missing|needless|not|lost/.test(one)))
    for (const line of figures.byCase(name)) process.stdout.write(`  ${name}: ${line}\n`);
}

await main();
