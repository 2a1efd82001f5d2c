import { spawn, spawnSync } from 'node:child_process';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** The checkout. */
export const root = join(dirname(fileURLToPath(import.meta.url)), '..', '..');

/** A failure that the person at the keyboard can fix: printed without a stack, exit code 1. */
export class StartError extends Error {}

/** Runs a command to its end with its output shown; its exit code. */
export function runShown(command, args, options = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { cwd: root, stdio: ['ignore', 'inherit', 'inherit'], ...options });
    child.on('error', reject);
    child.on('exit', (code, signal) => resolve(code ?? (signal ? 1 : 0)));
  });
}

/** Runs a command to its end; its exit code and all that it printed. */
export function runCaptured(command, args, options = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { cwd: root, stdio: ['ignore', 'pipe', 'pipe'], ...options });
    let output = '';
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (piece) => (output += piece));
    child.on('error', reject);
    child.on('close', (code, signal) => resolve({ code: code ?? (signal ? 1 : 0), output }));
  });
}

/** Output of a command, or null when it fails or is not there. */
export function outputOf(command, args, options = {}) {
  const done = spawnSync(command, args, { encoding: 'utf8', ...options });
  return done.status === 0 ? done.stdout.trim() : null;
}

/** Ends the process with a sentence for a {@link StartError}, else with the stack. */
export function fail(error) {
  process.stderr.write(error instanceof StartError ? `\n${error.message}\n` : `\n${error?.stack ?? error}\n`);
  process.exit(1);
}
