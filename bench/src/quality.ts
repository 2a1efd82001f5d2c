import { Random } from '@fulvet/demo';
import { report } from './measure';
import { CASES } from './world/answerCases';
import type { Figures } from './world/answerFigures';
import { FIGURES, figuresOf } from './world/answerFigures';
import type { Case } from './world/answerWorld';
import { AnswerWorld } from './world/answerWorld';
import { asNoisy, NoisyWorld } from './world/noisyWorld';
import { POLICIES } from './world/policyCases';

const OF_EACH = Number(process.env.BENCH_OF_EACH ?? 6);
const SEED = Number(process.env.BENCH_SEED ?? 1);
const ONLY = process.env.BENCH_CASE ?? '';
const ORDERS = ['at once', 'one by one', 'before the records'] as const;
const ORDER = ORDERS.find((order) => order === process.env.BENCH_ORDER) ?? 'at once';

function worldOf(cases: Record<string, Case>): { world: AnswerWorld; count: number } {
  const world = new AnswerWorld(new Random(SEED), Date.now());
  const chosen = Object.entries(cases).filter(([of]) => of.includes(ONLY));
  for (const [of, write] of chosen) for (let at = 0; at < OF_EACH; at += 1) write(world, of);
  return { world, count: chosen.length };
}

function tell(name: string, { world, count }: ReturnType<typeof worldOf>, figures: Figures): void {
  report(
    `${name}: ${world.sent.length} emails of ${count} cases, seed ${SEED}, mailboxes read ${ORDER}`,
    FIGURES.map((figure) => [figure, String(figures.count(figure))]),
  );
  for (const figure of FIGURES.filter((value) => /wrong|missing|needless|not|lost/.test(value)))
    for (const line of figures.byCase(figure)) process.stdout.write(`  ${figure}: ${line}\n`);
}

const NOISY = Number(process.env.BENCH_NOISY ?? 1200);
const SEEDS = Number(process.env.BENCH_SEEDS ?? 3);

/** Worlds that are made at random, cases and damage combined. */
async function noisy(): Promise<void> {
  for (let seed = SEED; seed < SEED + SEEDS; seed += 1) {
    const world = NoisyWorld.of(seed, NOISY, Date.now());
    tell(`Noise`, { world, count: 0 }, await figuresOf(world, ORDER, asNoisy));
  }
}

/** How many filings, creations and questions are right in worlds of mail of which it is known what is right. */
async function main(): Promise<void> {
  if (NOISY > 0) await noisy();
  const usual = worldOf(CASES);
  if (usual.count > 0) tell('The usual rulebook', usual, await figuresOf(usual.world, ORDER));
  for (const [name, { change, cases }] of Object.entries(POLICIES)) {
    const made = worldOf(cases);
    if (made.count > 0) tell(name, made, await figuresOf(made.world, ORDER, change));
  }
}

await main();
