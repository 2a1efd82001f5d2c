import { basename, join } from 'node:path';
import { installationSecret, productVersion } from './installation.mjs';
import { presetFolder, readNote } from './provider.mjs';
import { root } from './run.mjs';

/** Help on what the environment sets, for every program of an installation. */
export const ENVIRONMENT_HELP = `Environment:
  FULVET_HOME            folder for data (default .fulvet/ in the checkout)
  DATABASE_URL           an existing PostgreSQL database, in place of a private server
  FULVET_KEY_FILE        file of the keys that seal mail passwords (default in the data folder); every process needs the same
  FULVET_PRESETS         folder with presets of mail providers (JSON)
  FULVET_PRIVATE_HOSTS=1 mail servers on loopback and in private networks may be connected to
  FULVET_NAME_SERVERS    name servers to ask first for mail servers, as 127.0.0.1:5300, separated by commas
  FULVET_LOG             level of the log on standard output (default warn)
`;

const DEMO = 'fulvet_demo';

/** Name of the database and its folder: the demo world and own data are kept apart. */
export function dataPlace(home, empty) {
  const name = empty ? 'fulvet' : DEMO;
  return { name, dataFolder: process.env.DATABASE_URL ? join(home, 'external') : join(home, name) };
}

/** What every process of an installation opens its services with. */
export function serviceSettings({ home, dataFolder, ownerUrl }) {
  // The demo's provider belongs to the demo's own data alone.
  const provider = basename(dataFolder) === DEMO ? readNote(dataFolder) : null;
  const nameServers = provider ? [`127.0.0.1:${provider.ports.names}`] : (process.env.FULVET_NAME_SERVERS ?? '').split(',').filter(Boolean);
  return {
    ownerUrl,
    dataFolder,
    secret: installationSecret(home),
    migrationsFolder: join(root, 'server', 'migrations'),
    version: productVersion(),
    logLevel: process.env.FULVET_LOG ?? 'warn',
    presetFolders: [...(provider ? [presetFolder(dataFolder)] : []), ...(process.env.FULVET_PRESETS ? [process.env.FULVET_PRESETS] : [])],
    // The demo's provider lives on loopback.
    privateHosts: process.env.FULVET_PRIVATE_HOSTS === '1' || provider !== null,
    ...(nameServers.length > 0 ? { nameServers } : {}),
    ...(process.env.FULVET_KEY_FILE ? { keyFile: process.env.FULVET_KEY_FILE } : {}),
  };
}
