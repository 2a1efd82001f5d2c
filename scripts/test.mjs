import { mkdtempSync, rmSync, chmodSync, readFileSync, existsSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { ensureBuilt } from './lib/build.mjs';
import { ensureChromium, ensurePackages } from './lib/install.mjs';
import { startCluster } from './lib/postgres.mjs';
import { fail, root, runCaptured, runShown } from './lib/run.mjs';

const CHECKS = ['types', 'lint', 'format:check', 'arrows'];
const HELP = `npm test [-- OPTIONS] [PATTERN...]

  --only LIST   some of: ${CHECKS.join(', ')}, unit, server, browser (separated by commas)
  PATTERN       test files whose path matches
`;

/** Everything: types, lint, format, arrows, then unit, server and browser tests against a PostgreSQL of their own. */
async function main() {
  const { values, positionals } = parseArgs({ options: { only: { type: 'string' }, help: { type: 'boolean' } }, allowPositionals: true });
  if (values.help) return process.stdout.write(HELP);
  const only =
    values.only?.split(',') ?? (positionals.length > 0 ? ['unit', 'server', 'browser'] : [...CHECKS, 'unit', 'server', 'browser']);
  await ensurePackages();
  const sum = { passed: 0, failed: 0, skipped: 0 };
  // They wait for nothing of each other; what each says is shown when it ends.
  await Promise.all(
    CHECKS.filter((name) => only.includes(name)).map(async (check) => {
      const { code, output } = await runCaptured('npm', ['run', '--silent', check]);
      process.stdout.write(`\n— ${check}\n${output}`);
      sum[code === 0 ? 'passed' : 'failed'] += 1;
    }),
  );
  const suites = ['unit', 'server', 'sync', 'browser'].filter((name) => only.includes(name === 'sync' ? 'server' : name));
  if (suites.length > 0) await runSuites(suites, positionals, sum);
  const ran = sum.passed + sum.failed > 0;
  process.stdout.write(`\n${sum.passed} passed, ${sum.failed} failed, ${sum.skipped} skipped\n`);
  process.exit(sum.failed > 0 || !ran ? 1 : 0);
}

async function runSuites(suites, patterns, sum) {
  const env = {
    ...process.env,
    NODE_OPTIONS: '--experimental-vm-modules --disable-warning=ExperimentalWarning',
    TZ: 'UTC',
    FULVET_LOG: process.env.FULVET_LOG ?? 'silent',
  };
  delete env.DATABASE_URL;
  const folder = mkdtempSync(join(tmpdir(), 'fulvet-test-'));
  chmodSync(folder, 0o755);
  env.FULVET_TEST_FOLDER = folder;
  let cluster = null;
  const clear = () => {
    cluster?.stop();
    rmSync(folder, { recursive: true, force: true });
  };
  for (const signal of ['SIGINT', 'SIGTERM']) {
    process.on(signal, () => {
      clear();
      process.exit(1);
    });
  }
  try {
    if (suites.includes('browser')) {
      env.CHROMIUM_PATH = await ensureChromium();
      await ensureBuilt();
    } else if (suites.includes('server')) await ensureBuilt({ web: false });
    if (suites.includes('server') || suites.includes('browser')) {
      cluster = await startCluster(join(folder, 'postgres'), { throwaway: true });
      env.FULVET_TEST_URL = cluster.url();
    }
    // Those that wait for mail leave the processor to those that only compute.
    for (const beside of [['unit', 'sync'], ['server'], ['browser']])
      await Promise.all(beside.filter((suite) => suites.includes(suite)).map((suite) => runSuite(suite, patterns, env, folder, sum)));
  } finally {
    clear();
  }
}

async function runSuite(suite, patterns, env, folder, sum) {
  process.stdout.write(`\n— ${suite}\n`);
  const report = join(folder, `${suite}.json`);
  const args = [
    '--no-install',
    'jest',
    '--selectProjects',
    suite,
    '--json',
    `--outputFile=${report}`,
    // Each server test file has a database and a server of its own; three run beside each other, since each waits for its database now and
    // then. Those that wait for mail take turns.
    suite === 'server' ? '--maxWorkers=3' : suite === 'sync' ? '--runInBand' : '--maxWorkers=2',
    ...(suite === 'unit' ? [] : ['--forceExit']),
    ...(patterns.length > 0 ? ['--passWithNoTests', ...patterns] : []),
  ];
  const code = await runShown('npx', args, { env, stdio: ['ignore', 'ignore', 'inherit'] });
  if (!existsSync(report)) {
    sum.failed += 1;
    return;
  }
  const told = JSON.parse(readFileSync(report, 'utf8'));
  sum.passed += told.numPassedTests;
  sum.failed += told.numFailedTests + told.numRuntimeErrorTestSuites;
  sum.skipped += told.numPendingTests + told.numTodoTests;
  // A run that failed without a failed test (a crash of the runner, say) must not pass.
  if (code !== 0 && told.numFailedTests + told.numRuntimeErrorTestSuites === 0) sum.failed += 1;
}

process.chdir(root);
main().catch(fail);
