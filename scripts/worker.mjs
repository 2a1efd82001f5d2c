import { resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { ensureBuilt } from './lib/build.mjs';
import { ensurePackages } from './lib/install.mjs';
import { startPrivateCluster } from './lib/cluster.mjs';
import { homeFolder } from './lib/postgres.mjs';
import { fail, root } from './lib/run.mjs';
import { dataPlace, ENVIRONMENT_HELP, serviceSettings } from './lib/settings.mjs';

const HELP = `npm run worker [-- --empty]

Works on mailboxes beside the server, as one more process: any number of them, on any machine that reaches the database, the data
folder and the key file. They share the work; when one dies, the others take its mailboxes over.

  --empty   for the installation that was started with --empty

${ENVIRONMENT_HELP}`;

async function main() {
  const { values } = parseArgs({ options: { empty: { type: 'boolean' }, help: { type: 'boolean' } } });
  if (values.help) return process.stdout.write(HELP);
  await ensurePackages();
  await ensureBuilt({ web: false });
  const home = resolve(homeFolder());
  const { name, dataFolder } = dataPlace(home, values.empty);
  const ownerUrl = process.env.DATABASE_URL ?? (await startPrivateCluster(home)).url(name);
  const { openServices, closeServices } = await import(`${root}/dist/server.js`);
  const services = await openServices({ ...serviceSettings({ home, dataFolder, ownerUrl }), main: false });
  process.stdout.write(`Working on the mailboxes of ${name}. Ctrl-C stops; other processes go on.\n`);
  let stopping = false;
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) {
    process.on(signal, () => {
      if (stopping) return;
      stopping = true;
      void closeServices(services).then(() => process.exit(0));
    });
  }
}

main().catch(fail);
