import { spawn } from 'node:child_process';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const SCRIPT = join(dirname(fileURLToPath(import.meta.url)), '..', '..', '..', 'scripts', 'fulvet.mjs');

export interface Ran {
  code: number;
  out: string;
  err: string;
}

/** Runs the command as a person would, in a process of its own. */
export function runFulvet(args: readonly string[], input: string, env: Record<string, string>): Promise<Ran> {
  return new Promise((resolve) => {
    const child = spawn(process.execPath, [SCRIPT, ...args], {
      env: { PATH: process.env.PATH ?? '', HOME: process.env.HOME ?? '', ...env },
    });
    const ran: Ran = { code: -1, out: '', err: '' };
    child.stdout.on('data', (chunk: Buffer) => (ran.out += chunk.toString()));
    child.stderr.on('data', (chunk: Buffer) => (ran.err += chunk.toString()));
    child.on('close', (code) => resolve({ ...ran, code: code ?? -1 }));
    child.stdin.end(input);
  });
}
