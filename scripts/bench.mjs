import { chmodSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { buildPrograms, ensureBuilt } from './lib/build.mjs';
import { ensureChromium, ensurePackages } from './lib/install.mjs';
import { startCluster } from './lib/postgres.mjs';
import { fail, root, runShown } from './lib/run.mjs';

/** Runs the benchmarks named, or all of them: npm run bench -- [NAME...] */
async function main() {
  await ensurePackages();
  const all = readdirSync(join(root, 'bench', 'src'))
    .filter((name) => name.endsWith('.ts') && !name.endsWith('.test.ts') && name !== 'measure.ts')
    .map((name) => name.replace(/\.ts$/, ''));
  const wanted = process.argv.length > 2 ? process.argv.slice(2) : all;
  const unknown = wanted.find((name) => !all.includes(name));
  if (unknown) throw new Error(`There is no benchmark ${unknown}. There are: ${all.join(', ')}.`);
  const env = { ...process.env };
  // What measures the whole product needs it built, and a browser.
  // Reading goes on in threads, whose program has to be there.
  await ensureBuilt({ web: false });
  if (wanted.includes('news') || wanted.includes('browser')) {
    await ensureBuilt();
    env.CHROMIUM_PATH = await ensureChromium();
  }
  await buildPrograms(Object.fromEntries(wanted.map((name) => [`bench-${name}`, `bench/src/${name}.ts`])));
  const folder = mkdtempSync(join(tmpdir(), 'fulvet-bench-'));
  chmodSync(folder, 0o755);
  // A cluster as the product runs it, forcing data to disk.
  const cluster = await startCluster(join(folder, 'postgres'));
  try {
    for (const name of wanted) {
      const code = await runShown(process.execPath, ['--enable-source-maps', join(root, 'dist', `bench-${name}.js`)], {
        env: { ...env, FULVET_TEST_URL: cluster.url() },
      });
      if (code !== 0) process.exitCode = 1;
    }
  } finally {
    cluster.stop();
    rmSync(folder, { recursive: true, force: true });
  }
}

process.chdir(root);
main().catch(fail);
