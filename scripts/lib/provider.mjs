import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root, StartError } from './run.mjs';

const FIRST_PORT = 4470;
const TRIES = 20;

/** Where the made-up mail provider keeps its mailboxes, for an installation's data folder. */
export const providerFolder = (dataFolder) => join(dataFolder, 'longshore');
/** Presets that an installation adds. */
export const presetFolder = (dataFolder) => join(dataFolder, 'presets');
const noteFile = (dataFolder) => join(providerFolder(dataFolder), 'running.json');

/**
 * Starts Longshore Mail as a process of its own, on the ports of last time where they are free, and notes what the installation
 * has to know of it.
 *
 * @returns `ports`, `webUrl` and `stop`
 */
export async function startProvider(dataFolder) {
  const folder = providerFolder(dataFolder);
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const last = readNote(dataFolder)?.ports.imaps ?? FIRST_PORT;
  for (let attempt = 0; attempt < TRIES; attempt += 1) {
    const started = await tryPorts(folder, last + attempt * 10);
    if (!started) continue;
    mkdirSync(presetFolder(dataFolder), { recursive: true, mode: 0o700 });
    writeFileSync(join(presetFolder(dataFolder), 'longshore.json'), JSON.stringify(started.told.preset, null, 2));
    writeFileSync(noteFile(dataFolder), JSON.stringify({ ports: started.told.ports, webUrl: started.told.webUrl }));
    return { ports: started.told.ports, webUrl: started.told.webUrl, stop: started.stop };
  }
  throw new StartError(`The made-up mail provider found no free ports from ${last} on.`);
}

/** What is noted of the provider that belongs to an installation, or null. */
export function readNote(dataFolder) {
  const file = noteFile(dataFolder);
  return existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : null;
}

/** @returns null when a port is taken */
function tryPorts(folder, firstPort) {
  const child = spawn(
    process.execPath,
    [join(root, 'dist', 'mailhost.js'), '--folder', folder, '--port', String(firstPort), '--answer', '25'],
    {
      stdio: ['pipe', 'pipe', 'pipe'],
    },
  );
  return new Promise((resolve, reject) => {
    let said = '';
    let complaint = '';
    child.stdout.on('data', (chunk) => {
      said += chunk;
      if (said.includes('\n')) resolve({ told: JSON.parse(said), stop: () => stopChild(child) });
    });
    child.stderr.on('data', (chunk) => (complaint += chunk));
    child.once('error', reject);
    child.once('exit', () => {
      if (/EADDRINUSE/.test(complaint)) resolve(null);
      else reject(new StartError(`The made-up mail provider did not start: ${complaint.trim()}`));
    });
  });
}

function stopChild(child) {
  return new Promise((resolve) => {
    if (child.exitCode !== null) return resolve();
    child.once('exit', () => resolve());
    child.kill('SIGTERM');
  });
}
