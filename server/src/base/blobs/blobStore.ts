import { createHash, randomUUID } from 'node:crypto';
import { mkdir, open } from 'node:fs/promises';
import type { FileHandle } from 'node:fs/promises';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { deflateRaw, deflateRawSync, inflateRaw } from 'node:zlib';

const deflate = promisify(deflateRaw);
const inflate = promisify(inflateRaw);

/** Up to so many bytes a source is compressed at once: that takes 20 to 200 µs, while handing it to another thread alone takes 200. */
const SMALL = 16_384;

function compressed(blob: Uint8Array): Buffer | Promise<Buffer> {
  return blob.length <= SMALL ? deflateRawSync(blob, { level: 1 }) : deflate(blob, { level: 1 });
}

/** Where the compressed bytes of one blob lie. */
export interface BlobPlace {
  sha256: string;
  pack: string;
  position: number;
  /** Compressed bytes. */
  length: number;
  /** Bytes as put in. */
  size: number;
}

/** Raw sources, compressed, named by their content. */
export interface BlobStore {
  /** Writes the blobs and forces them to disk before it answers; the caller stores the places in the same transaction as what refers to them. */
  put(blobs: readonly Uint8Array[]): Promise<BlobPlace[]>;
  /** Overwrites blobs so that no one reads them again, and forces that to disk; a pack that is gone needs nothing. */
  erase(places: readonly Pick<BlobPlace, 'pack' | 'position' | 'length'>[]): Promise<void>;
  /** @throws when the pack is gone or damaged */
  get(place: Pick<BlobPlace, 'pack' | 'position' | 'length' | 'size'>): Promise<Uint8Array>;
  close(): Promise<void>;
}

const PACK_LIMIT = 512 * 1024 * 1024;

/** There was no room for a source; nothing of its batch was stored. */
export class DiskFull extends Error {
  constructor() {
    super('The disk is full.');
  }
}

function isDiskFull(error: unknown): boolean {
  return typeof error === 'object' && error !== null && 'code' in error && ['ENOSPC', 'EDQUOT', 'EFBIG'].includes(String(error.code));
}

/** A write may take a part only (a nearly full disk does): what is left is written again until all is there. */
async function writeWhole(handle: FileHandle, bytes: Buffer, position: number): Promise<void> {
  for (let done = 0; done < bytes.length;) {
    const { bytesWritten } = await handle.write(bytes, done, bytes.length - done, position + done);
    if (bytesWritten === 0) throw new DiskFull();
    done += bytesWritten;
  }
}

/** A new file is there after a loss of power once its folder was forced to disk, too. */
async function syncFolder(folder: string): Promise<void> {
  const handle = await open(folder, 'r');
  try {
    await handle.sync();
  } finally {
    await handle.close();
  }
}

/**
 * Keeps blobs in a folder of pack files, each written by one process only and never changed behind its end. Bytes of a
 * batch that was not committed stay behind unused and do no harm.
 */
export class FolderBlobStore implements BlobStore {
  private writing: { handle: FileHandle; name: string; end: number } | null = null;
  private readonly reading = new Map<string, Promise<FileHandle>>();
  private queue: Promise<unknown> = Promise.resolve();

  constructor(private readonly folder: string) {}

  put(blobs: readonly Uint8Array[]): Promise<BlobPlace[]> {
    const done = this.queue.then(() => this.write(blobs));
    this.queue = done.catch(() => undefined);
    return done;
  }

  async get(place: Pick<BlobPlace, 'pack' | 'position' | 'length' | 'size'>): Promise<Uint8Array> {
    let opening = this.reading.get(place.pack);
    if (!opening) {
      opening = open(join(this.folder, place.pack), 'r');
      this.reading.set(place.pack, opening);
      opening.catch(() => this.reading.delete(place.pack));
    }
    const handle = await opening;
    const compressed = Buffer.alloc(place.length);
    const { bytesRead } = await handle.read(compressed, 0, place.length, place.position);
    if (bytesRead !== place.length) throw new Error('the pack of this source ends too early');
    const source = await inflate(compressed, { maxOutputLength: place.size + 1 });
    if (source.length !== place.size) throw new Error('this source has not its size');
    return source;
  }

  async erase(places: readonly Pick<BlobPlace, 'pack' | 'position' | 'length'>[]): Promise<void> {
    for (const pack of new Set(places.map((place) => place.pack))) {
      const handle = await open(join(this.folder, pack), 'r+').catch((error: NodeJS.ErrnoException) => {
        if (error.code === 'ENOENT') return null;
        throw error;
      });
      if (!handle) continue;
      try {
        for (const place of places)
          if (place.pack === pack) await handle.write(Buffer.alloc(place.length), 0, place.length, place.position);
        await handle.datasync();
      } finally {
        await handle.close();
      }
    }
  }

  async close(): Promise<void> {
    await this.queue;
    await this.writing?.handle.close();
    await Promise.all([...this.reading.values()].map(async (opening) => (await opening).close()));
    this.writing = null;
    this.reading.clear();
  }

  private async write(blobs: readonly Uint8Array[]): Promise<BlobPlace[]> {
    if (blobs.length === 0) return [];
    const contents = await Promise.all(blobs.map(compressed));
    const pack = await this.packToWrite();
    let position = pack.end;
    const places = contents.map((bytes, at): BlobPlace => {
      const blob = blobs[at] ?? bytes;
      const place = {
        sha256: createHash('sha256').update(blob).digest('hex'),
        pack: pack.name,
        position,
        length: bytes.length,
        size: blob.length,
      };
      position += bytes.length;
      return place;
    });
    try {
      await writeWhole(pack.handle, Buffer.concat(contents), pack.end);
      await pack.handle.datasync();
    } catch (error) {
      // What of it was written lies behind the end of the pack and is overwritten by the next.
      this.writing = null;
      await pack.handle.close().catch(() => undefined);
      throw isDiskFull(error) ? new DiskFull() : error;
    }
    pack.end = position;
    return places;
  }

  private async packToWrite(): Promise<{ handle: FileHandle; name: string; end: number }> {
    if (this.writing && this.writing.end < PACK_LIMIT) return this.writing;
    await this.writing?.handle.close();
    try {
      await mkdir(this.folder, { recursive: true, mode: 0o700 });
      const name = `${randomUUID()}.pack`;
      this.writing = { handle: await open(join(this.folder, name), 'wx', 0o600), name, end: 0 };
      await syncFolder(this.folder);
      return this.writing;
    } catch (error) {
      throw isDiskFull(error) ? new DiskFull() : error;
    }
  }
}
