import { existsSync, mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { ensureBuilt } from './lib/build.mjs';
import { ensurePackages } from './lib/install.mjs';
import { ensureDatabase, installationSecret, productVersion, takeInstallation } from './lib/installation.mjs';
import { clusterFolder, homeFolder, startCluster } from './lib/postgres.mjs';
import { fail, root, StartError } from './lib/run.mjs';

const HELP = `npm start [-- OPTIONS]

  (nothing)   start with the demo world; made at the first start, kept from then on
  --empty     start without demo data, with a database of its own; leads through the first set-up
  --fresh     make the demo world anew
  --help      this text

Environment:
  PORT          port to listen on (default 4460, or the next free one)
  HOST          address to listen on (default 127.0.0.1)
  FULVET_HOME   folder for data (default .fulvet/ in the checkout)
  DATABASE_URL  an existing PostgreSQL database, in place of a private server
  FULVET_BEHIND_TLS=1  a proxy with TLS stands before the server: secure cookies
`;
const DEFAULT_PORT = 4460;

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
    for (const one of stops.reverse()) await Promise.resolve(one()).catch((error) => process.stderr.write(`${error}\n`));
    process.exit(code);
  };
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) {
    process.on(signal, () => {
      process.stdout.write('\nStopping …\n');
      void stop(0);
    });
  }
  try {
    await bringUp({ options, port, host, home, held, stops });
  } catch (error) {
    process.stderr.write(error instanceof StartError ? `\n${error.message}\n` : `\n${error?.stack ?? error}\n`);
    await stop(1);
  }
}

async function bringUp({ options, port, host, home, held, stops }) {
  await ensurePackages();
  await ensureBuilt({ web: process.env.FULVET_PROGRAMS_ONLY !== '1' });
  const name = options.empty ? 'fulvet' : 'fulvet_demo';
  const dataFolder = process.env.DATABASE_URL ? join(home, 'external') : join(home, name);
  const demoMade = join(dataFolder, 'demo-complete');
  const anew = !options.empty && !process.env.DATABASE_URL && (options.fresh || !existsSync(demoMade));

  let ownerUrl = process.env.DATABASE_URL;
  if (!ownerUrl) {
    const cluster = await startCluster(clusterFolder(home));
    stops.push(() => cluster.stop());
    if (anew) rmSync(dataFolder, { recursive: true, force: true });
    await ensureDatabase(cluster.url(), name, { anew });
    ownerUrl = cluster.url(name);
  }
  mkdirSync(dataFolder, { recursive: true, mode: 0o700 });
  const { startServer } = await import(join(root, 'dist', 'server.js'));
  const { makeDemo, demoSignIns } = await import(join(root, 'dist', 'demo.js'));
  const settings = {
    ownerUrl,
    dataFolder,
    host,
    secret: installationSecret(home),
    migrationsFolder: join(root, 'server', 'migrations'),
    webFolder: join(root, 'dist', 'web'),
    behindTls: process.env.FULVET_BEHIND_TLS === '1',
    version: productVersion(),
    logLevel: process.env.FULVET_LOG ?? 'warn',
  };
  const server = await startOnPort(startServer, settings, port);
  stops.push(() => server.stop());
  let token = null;
  if (!options.empty && !existsSync(demoMade)) {
    token = await makeDemo(server.services, { folder: dataFolder, now: Date.now(), say: (line) => process.stdout.write(`${line}\n`) });
    writeFileSync(demoMade, new Date().toISOString());
  }
  held.note(server.url);
  tell(server.url, options.empty, token, demoSignIns, demoMade);
}

function tell(url, empty, token, demoSignIns, demoMade) {
  const lines = ['', `Fulvet is at ${url}`, ''];
  if (empty)
    lines.push(
      'Open it to set up: the first administrator and your own domains.',
      'Or without the interface: npm run -s fulvet -- setup --help',
    );
  else {
    lines.push(
      'The demo world of Quillmere Hydrometrics. Sign in as:',
      ...demoSignIns.map((one) => `  ${one.email.padEnd(40)} ${one.role.padEnd(7)} password: ${one.password}`),
    );
    if (token)
      lines.push('', `For the command line: export FULVET_URL=${url} FULVET_TOKEN=${token}`, '(shown once; others are made under Team)');
    else lines.push('', 'Access tokens for the command line are made under Team.');
    lines.push('', existsSync(demoMade) ? 'Anew: npm start -- --fresh    Your own data: npm start -- --empty' : '');
  }
  process.stdout.write(`${lines.join('\n')}\n\nCtrl-C stops it; the data stay.\n`);
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
        '--fresh makes the demo world anew and --empty starts without it: choose one. To erase your own data, stop Fulvet and remove its folder.',
      );
    if (values.fresh && process.env.DATABASE_URL)
      throw new StartError('--fresh would erase the database of DATABASE_URL. Erase it yourself, then start without --fresh.');
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
