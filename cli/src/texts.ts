import { readFile } from 'node:fs/promises';
import { CommandError } from './client';

/** A file's text, or standard input for `-`. */
export async function textOf(file: string): Promise<string> {
  if (file === '-') {
    const chunks: Buffer[] = [];
    for await (const chunk of process.stdin) chunks.push(chunk as Buffer);
    return Buffer.concat(chunks).toString('utf8');
  }
  const bytes = await readFile(file).catch((error: unknown) => {
    throw new CommandError(`${file} cannot be read: ${error instanceof Error ? error.message : ''}`);
  });
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder('windows-1252').decode(bytes);
  }
}

/** What is for the person, not for the next program. */
export function say(line: string): void {
  process.stderr.write(`${line}\n`);
}
