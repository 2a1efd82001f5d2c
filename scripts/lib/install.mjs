import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { outputOf, root, runShown, StartError } from './run.mjs';

/** Installs the npm packages of the lock file when they are missing or the lock file changed. */
export async function ensurePackages() {
  const [major = 0, minor = 0] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19))
    throw new StartError(`Fulvet needs Node.js 20.19 or newer; this is ${process.versions.node}.`);
  const stamp = join(root, 'node_modules', '.fulvet-lock');
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return;
  process.stdout.write('Installing packages …\n');
  const code = await runShown('npm', ['ci', '--include=dev', '--no-audit', '--no-fund', '--loglevel=error'], { stdio: ['ignore', 2, 2] });
  if (code !== 0) throw new StartError('The packages could not be installed. Is the npm registry reachable? Then run: npm ci');
  writeFileSync(stamp, lock);
}

/** The command prefix that gives the right to install Debian packages, or null. */
function privilege() {
  if (process.getuid?.() === 0) return [];
  return outputOf('sudo', ['-n', 'true']) === null ? null : ['sudo', '-n'];
}

/** Installs Debian packages, where we may; else names the exact command. */
export async function installDebian(packages, why) {
  const command = `apt-get update && apt-get install -y --no-install-recommends ${packages.join(' ')}`;
  const prefix = outputOf('apt-get', ['--version']) === null ? null : privilege();
  if (prefix === null)
    throw new StartError(`${why}\nIt is missing and may not be installed from here. Run this as root, then start again:\n\n  ${command}`);
  process.stdout.write(`Installing ${packages.join(', ')} from Debian's packages …\n`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  const quiet = { env, stdio: ['ignore', 'ignore', 'inherit'] };
  const run = (args) => runShown(prefix[0] ?? args[0], prefix.length > 0 ? [...prefix.slice(1), ...args] : args.slice(1), quiet);
  await run(['apt-get', 'update', '-qq']);
  const code = await run(['apt-get', 'install', '-y', '-qq', '--no-install-recommends', ...packages]);
  if (code !== 0) throw new StartError(`${why}\nInstalling it failed. Run this as root, then start again:\n\n  ${command}`);
}

/** Path of a Chromium, installed when it is absent. */
export async function ensureChromium() {
  const find = () => process.env.CHROMIUM_PATH ?? outputOf('sh', ['-c', 'command -v chromium || command -v chromium-browser']);
  if (!find()) await installDebian(['chromium'], 'The browser tests need Chromium.');
  const found = find();
  if (!found) throw new StartError('Chromium was installed but is not found. Set CHROMIUM_PATH.');
  return found;
}
