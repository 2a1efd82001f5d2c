import { randomUUID } from 'node:crypto';
import { mkdir, open, readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';

const PREFIX = 'spooled-';
const DAY_MS = 86_400_000;

/** A file that came in, on disk until it is stored. */
export interface Spooled {
  path: string;
  /** Bytes. */
  size: number;
  remove(): Promise<void>;
}

/**
 * Writes what comes in to disk, a piece at a time, so that neither its size nor a slow sender holds memory or a connection to the database.
 *
 * @returns null when it has more bytes than the limit; nothing of it is kept then
 */
export async function spool(folder: string, bytes: AsyncIterable<Uint8Array>, limit: number): Promise<Spooled | null> {
  await mkdir(folder, { recursive: true, mode: 0o700 });
  const path = join(folder, `${PREFIX}${randomUUID()}`);
  const remove = (): Promise<void> => rm(path, { force: true });
  const handle = await open(path, 'wx', 0o600);
  let size = 0;
  try {
    for await (const piece of bytes) {
      size += piece.length;
      if (size > limit) break;
      await handle.write(piece);
    }
  } catch (error) {
    await remove();
    throw error;
  } finally {
    await handle.close();
  }
  if (size <= limit) return { path, size, remove };
  await remove();
  return null;
}

/** The bytes of a file, one piece after the other, each only good until the next is asked for. */
export async function* piecesOf({ path, size }: Spooled, bytes: number): AsyncGenerator<Buffer> {
  const handle = await open(path, 'r');
  try {
    const buffer = Buffer.alloc(Math.min(bytes, size));
    for (let at = 0; at < size; at += bytes) {
      const { bytesRead } = await handle.read(buffer, 0, Math.min(bytes, size - at), at);
      yield buffer.subarray(0, bytesRead);
    }
  } finally {
    await handle.close();
  }
}

/** What a process left that ended in the middle. */
export async function removeStaleSpooled(folder: string): Promise<void> {
  const names = await readdir(folder).catch(() => []);
  for (const name of names.filter((it) => it.startsWith(PREFIX))) {
    const path = join(folder, name);
    const age = Date.now() - ((await stat(path).catch(() => null))?.mtimeMs ?? Date.now());
    if (age > DAY_MS) await rm(path, { force: true });
  }
}
