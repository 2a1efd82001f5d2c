import { cleanText } from '@fulvet/core';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { replaceBlobs } from '../../server/src/base/reading/quickBlob';
import { Corpus } from './fuzz/corpus';
import { Coverage } from './fuzz/coverage';
import { EXAMPLES, PIECES } from './fuzz/pieces';
import type { Reader } from './fuzz/pieces';
import { READERS } from './fuzz/readers';

/** Seconds for each reader; `FUZZ_SECONDS=520` for an hour in all. */
const SECONDS = Number(process.env.FUZZ_SECONDS ?? 20);
/** The readers to try, all by default: `FUZZ_READERS=mail,html`. */
const ONLY = process.env.FUZZ_READERS?.split(',') as Reader[] | undefined;
/** Longer inputs are tried, but not changed further. */
const MOST_KEPT_LETTERS = 20_000;
const MOST_MS = 2_000;
const MOST_GROWTH = 200 * 1024 * 1024;

/** What is tried now: said when the program ends before its time, as it does when a promise is never kept. */
let now: string | null = null;
process.on('exit', () => {
  if (now !== null) process.stdout.write(`  BROKEN  ended within ${now}\n`);
});

setFlagsFromString('--expose-gc');
const collectGarbage = runInNewContext('gc') as () => void;

function heldBytes(): number {
  const { heapUsed, external } = process.memoryUsage();
  return heapUsed + external;
}

interface Found {
  runs: number;
  slowest: number;
  /** Bytes: the most that an input took, or all of them kept. */
  growth: number;
  failed: string[];
  places: number;
  kept: number;
}

async function fuzz(name: Reader, coverage: Coverage): Promise<Found> {
  const found: Found = { runs: 0, slowest: 0, growth: 0, failed: [], places: 0, kept: 0 };
  const corpus = new Corpus(PIECES[name], EXAMPLES[name]);
  const placesBefore = coverage.places;
  const until = performance.now() + SECONDS * 1000;
  collectGarbage();
  const before = heldBytes();
  for (let seed = Date.now() >>> 0; performance.now() < until; seed = (seed + 1) >>> 0) {
    const text = corpus.next(seed);
    now = `${name}, seed ${seed}`;
    const heldBefore = heldBytes();
    const began = process.cpuUsage();
    try {
      await READERS[name](text);
    } catch (error) {
      found.failed.push(
        `seed ${seed}: ${error instanceof Error ? error.message : String(error)} ${JSON.stringify(cleanText(text).slice(0, 120))}`,
      );
    }
    // What it costs, whatever else this machine does.
    const { user, system } = process.cpuUsage(began);
    const took = (user + system) / 1000;
    if (took > MOST_MS) found.failed.push(`seed ${seed}: ${took.toFixed(0)} ms ${JSON.stringify(cleanText(text).slice(0, 120))}`);
    found.slowest = Math.max(found.slowest, took);
    found.runs += 1;
    found.growth = Math.max(found.growth, heldBytes() - heldBefore);
    if (coverage.foundNew() && text.length <= MOST_KEPT_LETTERS) corpus.keep(text);
  }
  collectGarbage();
  found.growth = Math.max(found.growth, heldBytes() - before);
  return { ...found, places: coverage.places - placesBefore, kept: corpus.size };
}

/** Reads made-up hostile input for a while: no crash, no hang over two seconds, no growth over 200 MB. */
async function main(): Promise<void> {
  // As in the threads that read.
  replaceBlobs();
  process.stdout.write(`\nfuzzing, ${SECONDS} s for each reader\n`);
  const coverage = new Coverage();
  for (const name of ONLY ?? (Object.keys(PIECES) as Reader[])) {
    const { runs, slowest, growth, failed, places, kept } = await fuzz(name, coverage);
    const held = failed.length === 0 && growth < MOST_GROWTH;
    process.stdout.write(
      `  ${held ? 'held  ' : 'BROKEN'}  ${name.padEnd(10)} ${runs} inputs, ${places} places (${kept} inputs kept), the slowest ${slowest.toFixed(0)} ms, grew by ${(growth / 1e6).toFixed(0)} MB\n`,
    );
    for (const line of failed.slice(0, 3)) process.stdout.write(`            ${line}\n`);
    if (!held) process.exitCode = 1;
  }
  now = null;
}

await main();
