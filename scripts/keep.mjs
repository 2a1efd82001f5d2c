import { join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { backUp, restore } from './lib/backup.mjs';
import { ensureBuilt } from './lib/build.mjs';
import { ensurePackages } from './lib/install.mjs';
import { takeInstallation } from './lib/installation.mjs';
import { isClusterRunning, startPrivateCluster } from './lib/cluster.mjs';
import { homeFolder, programs } from './lib/postgres.mjs';
import { fail, root, StartError } from './lib/run.mjs';
import { dataPlace, ENVIRONMENT_HELP, serviceSettings } from './lib/settings.mjs';

const HELP = `npm run backup -- FILE [--empty]            all that an installation keeps, into one tar file
npm run restore -- FILE [--empty] [--over]  puts a backup in place, and proves that it is the same
npm run check-audit [-- --empty]            computes all hashes of the audit log again
npm run verify [-- --empty]                 compares every email with its stored source, and marks those to repair

  --empty   the installation that was started with --empty (default: the demo world)
  --over    replace what is there

A backup holds the keys that open passwords of mailboxes and second factors: keep it as you keep those.

${ENVIRONMENT_HELP}`;

async function main() {
  const { values, positionals } = parseArgs({
    options: { empty: { type: 'boolean' }, over: { type: 'boolean' }, help: { type: 'boolean' } },
    allowPositionals: true,
  });
  const [verb, file] = positionals;
  if (values.help || !['backup', 'restore', 'check-audit', 'verify'].includes(verb)) return process.stdout.write(HELP);
  if (['backup', 'restore'].includes(verb) && !file) throw new StartError(`Name a file: npm run ${verb} -- backup.tar`);
  await ensurePackages();
  const home = resolve(homeFolder());
  const { name, dataFolder } = dataPlace(home, values.empty);
  // While another program puts a backup in place, nothing else works on the installation.
  const held = verb === 'restore' ? await takeInstallation(home) : null;
  const ran = process.env.DATABASE_URL ? true : isClusterRunning(home);
  const cluster = process.env.DATABASE_URL ? null : await startPrivateCluster(home);
  try {
    const ownerUrl = process.env.DATABASE_URL ?? cluster.url(name);
    const place = {
      bin: await programs(),
      ownerUrl,
      dataFolder,
      secretFile: join(home, 'secret.key'),
      keyFile: process.env.FULVET_KEY_FILE ?? join(dataFolder, 'mail-keys.json'),
    };
    if (verb === 'check-audit') return await checkLog(ownerUrl);
    if (verb === 'verify') return await verify({ home, dataFolder, ownerUrl });
    if (verb === 'backup') {
      const { tables } = await backUp({ ...place, target: file });
      process.stdout.write(`Backed up ${sum(tables)} rows of ${Object.keys(tables).length} tables and the sources into ${resolve(file)}\n`);
      return;
    }
    const adminUrl = cluster ? cluster.url() : ownerUrl.replace(/\/[^/?]*(\?|$)/, '/postgres$1');
    const database = process.env.DATABASE_URL ? new URL(ownerUrl).pathname.slice(1) : name;
    const { tables, made } = await restore({ ...place, adminUrl, name: database, source: file, over: values.over ?? false });
    process.stdout.write(
      `Put the backup of ${made} in place: ${sum(tables)} rows of ${Object.keys(tables).length} tables, each the same as then. Start with npm start.\n`,
    );
  } finally {
    if (cluster && !ran) cluster.stop();
    held?.letGo();
  }
}

const sum = (tables) => Object.values(tables).reduce((all, one) => all + one.rows, 0);

async function checkLog(ownerUrl) {
  await ensureBuilt({ web: false });
  const { checkAuditAt } = await import(join(root, 'dist', 'server.js'));
  const check = await checkAuditAt(ownerUrl);
  for (const { chain, entries, head } of check.chains)
    process.stdout.write(`${chain.padEnd(12)} ${String(entries).padStart(8)} entries, head ${head}\n`);
  for (const problem of check.broken) process.stdout.write(`${problem}\n`);
  process.stdout.write(check.intact ? 'The audit log is as it was written.\n' : 'The audit log is NOT as it was written.\n');
  if (!check.intact) process.exitCode = 1;
}

/** Names what is damaged; exit code 1 when something is. */
async function verify(place) {
  await ensureBuilt({ web: false });
  const { openServices, closeServices, verifySources } = await import(join(root, 'dist', 'server.js'));
  const services = await openServices({ ...serviceSettings(place), main: false, worksOnMailboxes: false });
  try {
    const { sources, damaged, whole } = await verifySources(services.database, services.blobs, (line) => process.stdout.write(`${line}\n`));
    for (const { id, reason } of damaged) process.stdout.write(`email ${id}: ${reason}\n`);
    if (whole > 0) process.stdout.write(`${whole} emails were marked as damaged before and are whole.\n`);
    process.stdout.write(
      damaged.length === 0
        ? `All ${sources} sources are as they were stored.\n`
        : `${damaged.length} of ${sources} sources are damaged. They are repaired when their emails are read from the mailbox again, or their file is imported again.\n`,
    );
    if (damaged.length > 0) process.exitCode = 1;
  } finally {
    await closeServices(services);
  }
}

main().catch(fail);
