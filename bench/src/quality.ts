import { Random } from '@fulvet/demo';
import { report } from './measure';
import { CASES } from './world/answerCases';
import { FIGURES, Figures, figuresOf, inWorld } from './world/answerFigures';
import type { Case } from './world/answerWorld';
import { AnswerWorld } from './world/answerWorld';
import { NOISY_POLICIES, NoisyWorld } from './world/noisyWorld';
import { machineFigures, machineMail } from './world/machineMail';
import type { PeoplePolicy } from './world/noisyNames';
import { NoisyPeople } from './world/noisyPeople';
import { peopleFigures } from './world/peopleFigures';
import { PEOPLE_POLICIES } from './world/noisyNames';
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

/** @param of how the world was made */
function tell(name: string, of: string, world: AnswerWorld, figures: Figures): void {
  report(
    `${name}: ${world.sent.length} emails, ${of}, mailboxes read ${ORDER}`,
    FIGURES.map((figure) => [figure, String(figures.count(figure))]),
  );
  for (const figure of FIGURES.filter((value) => /wrong|missing|needless|not|lost/.test(value)))
    for (const line of figures.byCase(figure)) process.stdout.write(`  ${figure}: ${line}\n`);
}

const NOISY = Number(process.env.BENCH_NOISY ?? 1200);
const SEEDS = Number(process.env.BENCH_SEEDS ?? 10);

/** Worlds that are made at random, cases and damage combined. */
async function noisy(): Promise<void> {
  const policies = Object.entries(NOISY_POLICIES);
  const all = new Figures();
  let emails = 0;
  for (let seed = SEED; seed < SEED + SEEDS; seed += 1) {
    const world = NoisyWorld.of(seed, NOISY, Date.now());
    const [name, change] = policies[seed % policies.length] ?? ['', () => undefined];
    const figures = await figuresOf(world, ORDER, change);
    tell(`Noise, ${name}`, `seed ${seed}`, world, figures);
    all.add(figures);
    emails += world.sent.length;
  }
  const [right, wrong, missing] = KINDS.map((figure) => all.count(figure));
  table('By kind of case: right, wrong, missing, asked needlessly', all.byKind(KINDS));
  table('By rule: right, wrong', all.byKind(['rule right', 'rule wrong']));
  goal('filings right', shareOf(right, wrong), 0.995);
  goal('filings found', shareOf(right, missing), 0.97);
  goal('emails without a needless question', 1 - all.count('questions needless') / emails, 0.99);
}

const KINDS = ['filings right', 'filings wrong', 'filings missing', 'questions needless'];
const shareOf = (part = 0, rest = 0): number => part / Math.max(1, part + rest);

function table(title: string, rows: readonly [string, number[]][]): void {
  process.stdout.write(`\n${title}\n`);
  for (const [name, counts] of rows)
    process.stdout.write(`  ${name.padEnd(70)} ${counts.map((count) => String(count).padStart(7)).join('')}\n`);
}

const failed: string[] = [];

/** A share that has to be reached; the program fails where one is not. */
function goal(what: string, share: number, least: number): void {
  process.stdout.write(`  ${what}: ${(share * 100).toFixed(3)} % (goal ${(least * 100).toFixed(1)} %)\n`);
  if (!(share >= least)) failed.push(what);
}

const PEOPLE = Number(process.env.BENCH_PEOPLE ?? 300);

/** Worlds of people on no record, under several rulebooks: who becomes a record, under which name, and which emails stand in one conversation. */
async function people(): Promise<void> {
  const all = { created: 0, of: 0, never: 0, names: 0, named: 0, pairs: 0, ofPairs: 0, wrongPairs: 0 };
  for (const policy of Object.keys(PEOPLE_POLICIES) as PeoplePolicy[])
    for (let seed = SEED; seed < SEED + SEEDS; seed += 1) {
      const made = NoisyPeople.of(seed, PEOPLE, Date.now(), policy);
      const found = await inWorld(made.world, ORDER, PEOPLE_POLICIES[policy], (decided) => peopleFigures(made, decided));
      const share = (right: number, of: number): string => `${right} of ${of} (${((right / Math.max(1, of)) * 100).toFixed(2)} %)`;
      report(`People, created when ${policy}: ${made.strangers.length} people, seed ${seed}, mailboxes read ${ORDER}`, [
        ['created who had to be', share(found.created.right, found.created.of)],
        ['created who must not be', String(found.never.length)],
        ['names right', share(found.names.right, found.names.of)],
        ['pairs of one conversation', share(found.pairs.right, found.pairs.of)],
        ['pairs that are not', String(found.pairs.wrong)],
      ]);
      all.created += found.created.right;
      all.of += found.created.of;
      all.never += found.never.length;
      all.names += found.names.right;
      all.named += found.names.of;
      all.pairs += found.pairs.right;
      all.ofPairs += found.pairs.of;
      all.wrongPairs += found.pairs.wrong;
      for (const line of [...found.never, ...found.missing, ...found.names.wrong]) process.stdout.write(`  ${line}\n`);
    }
  goal('people created who had to be', all.created / all.of, 0.97);
  goal('people of whom none was created needlessly', all.never === 0 ? 1 : 0, 1);
  goal('names right', all.names / all.named, 0.97);
  goal('pairs of one conversation', all.pairs / all.ofPairs, 0.995);
  goal('pairs that are of one conversation', 1 - all.wrongPairs / Math.max(1, all.pairs), 0.999);
}

const MACHINES = Number(process.env.BENCH_MACHINES ?? 3000);

/** Mail of machines without the headers that say so, beside mail of people. */
async function machines(): Promise<void> {
  const all = { found: 0, of: 0, alarms: 0, people: 0 };
  for (let seed = SEED; seed < SEED + SEEDS; seed += 1) {
    const { found, alarms, people: persons } = await machineFigures(machineMail(seed, MACHINES));
    for (const { found: count, of } of found.values()) {
      all.found += count;
      all.of += of;
    }
    all.alarms += alarms.length;
    all.people += persons;
  }
  report(`Machine mail without its headers: ${SEEDS} worlds of ${MACHINES} emails`, [
    ['found', `${all.found} of ${all.of}`],
    ['emails of people taken for it', `${all.alarms} of ${all.people}`],
  ]);
  goal('machine mail found', all.found / all.of, 0.9);
  goal('emails of people left alone', 1 - all.alarms / all.people, 0.9998);
}

/** How many filings, creations and questions are right in worlds of mail of which it is known what is right. */
async function main(): Promise<void> {
  if (NOISY > 0) await noisy();
  if (PEOPLE > 0) await people();
  if (MACHINES > 0) await machines();
  const usual = worldOf(CASES);
  if (usual.count > 0) tell('The usual rulebook', `${usual.count} cases, seed ${SEED}`, usual.world, await figuresOf(usual.world, ORDER));
  for (const [name, { change, cases }] of Object.entries(POLICIES)) {
    const made = worldOf(cases);
    if (made.count > 0) tell(name, `${made.count} cases, seed ${SEED}`, made.world, await figuresOf(made.world, ORDER, change));
  }
}

await main();
if (failed.length > 0) {
  process.stderr.write(`Below the goal: ${failed.join(', ')}\n`);
  process.exitCode = 1;
}
