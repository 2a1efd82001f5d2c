import { existsSync, mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { ensureBuilt } from './lib/build.mjs';
import { ensurePackages } from './lib/install.mjs';
import { backUpBeforeUpgrade } from './lib/upgrade.mjs';
import { ensureDatabase, takeInstallation } from './lib/installation.mjs';
import { startPrivateCluster } from './lib/cluster.mjs';
import { homeFolder } from './lib/postgres.mjs';
import { providerFolder, startProvider } from './lib/provider.mjs';
import { fail, root, StartError } from './lib/run.mjs';
import { dataPlace, ENVIRONMENT_HELP, serviceSettings } from './lib/settings.mjs';

const HELP = `npm start [-- OPTIONS]

  (nothing)   start with the demo world; made at the first start, kept from then on
  --empty     start without demo data, with a database of its own; leads through the first set-up
  --fresh     make the demo world again
  --help      this text

${ENVIRONMENT_HELP}  PORT                   port to listen on (default 4460, or the next free one)
  HOST                   address to listen on (default 127.0.0.1)
  FULVET_BEHIND_TLS=1    a proxy with TLS stands before the server: secure cookies
  FULVET_WORKERS_APART=1 leave the mailboxes to npm run worker
`;
const DEFAULT_PORT = 4460;
const MOST_STOPPING_MS = 14_000;

async function main() {
  const options = readOptions();
  if (options.help) {
    process.stdout.write(HELP);
    return;
  }
  const port = readPort();
  const host = process.env.HOST || '127.0.0.1';
  const home = resolve(homeFolder());
  const held = await takeInstallation(home);
  const stops = [() => held.letGo()];
  let stopping = false;
  const stop = async (code) => {
    if (stopping) return;
    stopping = true;
    // Whatever hangs, it ends: what was committed is safe.
    setTimeout(() => process.exit(1), MOST_STOPPING_MS).unref();
    for (const end of stops.reverse())
      await Promise.resolve()
        .then(end)
        .catch((error) => process.stderr.write(`${error}\n`));
    process.exit(code);
  };
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) {
    process.on(signal, () => {
      if (stopping) process.exit(1);
      process.stdout.write('\nStopping … (once more ends it at once)\n');
      void stop(0);
    });
  }
  try {
    await bringUp({ options, port, host, home, held, stops });
  } catch (error) {
    process.stderr.write(
      error instanceof StartError || error?.constructor?.name === 'CannotStart'
        ? `\n${error.message}\n`
        : `\n${error?.stack ?? error}\n${error?.cause?.stack ?? ''}\n`,
    );
    await stop(1);
  }
}

async function bringUp({ options, port, host, home, held, stops }) {
  await ensurePackages();
  await ensureBuilt({ web: process.env.FULVET_PROGRAMS_ONLY !== '1' });
  const { name, dataFolder } = dataPlace(home, options.empty);
  const demoMade = join(dataFolder, 'demo-complete');
  const isFresh = !options.empty && (options.fresh || !existsSync(demoMade));

  let ownerUrl = process.env.DATABASE_URL;
  if (!ownerUrl) {
    const cluster = await startPrivateCluster(home);
    stops.push(() => cluster.stop());
    if (isFresh) rmSync(dataFolder, { recursive: true, force: true });
    await ensureDatabase(cluster.url(), name, { isFresh });
    ownerUrl = cluster.url(name);
  }
  mkdirSync(dataFolder, { recursive: true, mode: 0o700 });
  await backUpBeforeUpgrade({ ownerUrl, dataFolder, home });
  const { startServer } = await import(join(root, 'dist', 'server.js'));
  const demo = await import(join(root, 'dist', 'demo.js'));
  const provider = options.empty ? null : await openProvider(demo, dataFolder, demoMade, stops);
  const settings = {
    ...serviceSettings({ home, dataFolder, ownerUrl }),
    host,
    webFolder: join(root, 'dist', 'web'),
    behindTls: process.env.FULVET_BEHIND_TLS === '1',
    worksApart: true,
    worksOnMailboxes: process.env.FULVET_WORKERS_APART !== '1',
  };
  const server = await startOnPort(startServer, settings, port);
  stops.push(() => server.stop());
  let token = null;
  if (provider) await demo.moveToPorts(server.services, provider.ports);
  if (provider?.now) {
    const say = (line) => process.stdout.write(`${line}\n`);
    token = await demo.makeDemo(server.services, { folder: dataFolder, now: provider.now, say, atProvider: true });
    await demo.doAdminWork(server.url, token, say);
    writeFileSync(demoMade, new Date().toISOString());
  }
  held.note(server.url);
  tell(server.url, provider, token, demo);
}

/** The demo's mail provider; filled when the demo world is to be made. @returns with `now` in that case: the time that its mail ends at */
async function openProvider(demo, dataFolder, demoMade, stops) {
  const now = existsSync(demoMade) ? null : Date.now();
  if (now !== null) {
    process.stdout.write('Writing nine months of mail …\n');
    rmSync(providerFolder(dataFolder), { recursive: true, force: true });
    demo.fillPost(providerFolder(dataFolder), demo.planDemo({ now }));
  }
  const provider = await startProvider(dataFolder);
  stops.push(() => provider.stop());
  return { ...provider, now };
}

function tell(url, provider, token, demo) {
  const lines = ['', `Fulvet is at ${url}`, ''];
  if (!provider)
    lines.push(
      'Open it to set up: the first administrator and your own domains.',
      'Or without the interface: npm run -s fulvet -- setup --help',
    );
  else {
    lines.push(
      'The demo world of Quillmere Hydrometrics. Sign in as:',
      ...demo.demoSignIns.map((member) => `  ${member.email.padEnd(40)} ${member.role.padEnd(7)} password: ${member.password}`),
      '',
      `The external people are yours to play: ${provider.webUrl}`,
      `Not connected yet, to try it: ${demo.UNCONNECTED}   its password at the provider: ${demo.MAIL_PASSWORD}`,
    );
    if (token)
      lines.push('', `For the command line: export FULVET_URL=${url} FULVET_TOKEN=${token}`, '(shown once; others are made under Team)');
    else lines.push('', 'Access tokens for the command line are made under Team.');
    lines.push('', 'Start the demo again: npm start -- --fresh    Use your own data: npm start -- --empty');
  }
  process.stdout.write(`${lines.join('\n')}\n\nCtrl-C stops it; your data stay.\n`);
}

/** On the port that was asked for or not at all; without one, on the next free from the default. */
async function startOnPort(startServer, settings, port) {
  for (let candidate = port ?? DEFAULT_PORT; ; candidate += 1) {
    try {
      return await startServer({ ...settings, port: candidate });
    } catch (error) {
      if (error?.code === 'EACCES')
        throw new StartError(`Port ${candidate} may not be used by this user. Choose one above 1023: PORT=${DEFAULT_PORT} npm start`);
      if (error?.code === 'EADDRNOTAVAIL' || error?.code === 'ENOTFOUND')
        throw new StartError(`This machine has no address ${settings.host}. Set HOST to one that it has, or leave it unset.`);
      if (error?.code !== 'EADDRINUSE') throw error;
      if (port !== null || candidate >= DEFAULT_PORT + 50)
        throw new StartError(`Port ${candidate} is taken by another program. Choose another: PORT=${candidate + 1} npm start`);
    }
  }
}

function readOptions() {
  try {
    const { values } = parseArgs({ options: { empty: { type: 'boolean' }, fresh: { type: 'boolean' }, help: { type: 'boolean' } } });
    if (values.empty && values.fresh)
      throw new StartError(
        '--fresh makes the demo world again and --empty starts without it: choose one. To erase your own data, stop Fulvet and remove its folder.',
      );
    if (process.env.DATABASE_URL && !values.empty && !values.help)
      throw new StartError(
        'DATABASE_URL names a database of your own, and the demo world never goes into one. Nothing was changed. Start with your data: npm start -- --empty. Or unset DATABASE_URL to see the demo.',
      );
    return values;
  } catch (error) {
    if (error instanceof StartError) throw error;
    throw new StartError(`${error.message}\n\n${HELP}`);
  }
}

function readPort() {
  const text = process.env.PORT;
  if (text === undefined || text === '') return null;
  const port = Number(text);
  if (!Number.isInteger(port) || port < 0 || port > 65535) throw new StartError(`PORT=${text} is not a port number.`);
  return port;
}

main().catch(fail);
