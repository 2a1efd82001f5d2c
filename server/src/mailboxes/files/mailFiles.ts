import { readDate, MboxSplitter } from '@fulvet/core';
import { createReadStream } from 'node:fs';
import { open } from 'node:fs/promises';
import { pipeline, Readable, Transform } from 'node:stream';
import { createGunzip, createInflateRaw } from 'node:zlib';
import { fromRandomAccessReader, RandomAccessReader } from 'yauzl';
import type { Entry, ZipFile } from 'yauzl';

/** One message as it lies in a file. */
export interface FoundMessage {
  raw: Uint8Array;
  /** File, and the entry of an archive, that it came from. */
  file: string;
  envelope: { sender: string; date: number | null };
  cutBytes: number;
}

/** Something in a file that is no message. */
export interface NotAMessage {
  file: string;
  reason: string;
}

export type Found = { message: FoundMessage } | { problem: NotAMessage };

export interface MailFileOptions {
  /** Called with the bytes read from the file on disk, for progress. */
  onBytes?: (bytes: number) => void;
  maxMessageBytes?: number;
  /** Most bytes that an archive may unfold to; default: 100 times its size, at least 2 GB and at most 200 GB. */
  maxUnfoldedBytes?: number;
}

/** Longest message that is kept whole, in bytes. */
export const MAX_MESSAGE_BYTES = 64 * 1024 * 1024;
const MIN_UNFOLD_LIMIT = 2 * 1024 * 1024 * 1024;
const MAX_UNFOLD_LIMIT = 200 * 1024 * 1024 * 1024;
const MAX_ENTRIES = 1_000_000;
/** Compression method 8 of the zip format: deflate. */
const DEFLATED = 8;
/** How deep compressed files may stand in each other: a .gz in a .zip. An archive can be made to hold itself. */
const MAX_LAYERS = 2;

class UnfoldLimitError extends Error {}

/**
 * Finds the messages in a file: an mbox or a single message (eml), plain, as .gz, or any number of these in a .zip. What a
 * file is is told by its first bytes, not by its name. Memory stays bounded by the longest message.
 */
export async function* readMailFile(path: string, name: string, options: MailFileOptions = {}): AsyncGenerator<Found> {
  const handle = await open(path, 'r');
  const start = Buffer.alloc(4);
  const { bytesRead } = await handle.read(start, 0, 4, 0);
  const { size } = await handle.stat();
  await handle.close();
  const limit = { left: options.maxUnfoldedBytes ?? Math.min(MAX_UNFOLD_LIMIT, Math.max(MIN_UNFOLD_LIMIT, size * 100)) };
  try {
    if (bytesRead === 4 && start.readUInt32LE(0) === 0x04034b50) yield* readZip(path, name, size, limit, options);
    else
      yield* readStream(counted(createReadStream(path, { highWaterMark: 1 << 18 }), options.onBytes), name, { limit, layers: 0 }, options);
  } catch (error) {
    if (error instanceof UnfoldLimitError) yield { problem: { file: name, reason: `${error.message} What was read before stands.` } };
    else
      yield {
        problem: { file: name, reason: `The file cannot be read further: ${error instanceof Error ? error.message : String(error)}` },
      };
  }
}

function counted(stream: Readable, onBytes?: (bytes: number) => void): Readable {
  stream.on('data', (chunk: Buffer) => onBytes?.(chunk.length));
  stream.pause();
  return stream;
}

/** How much more an archive may unfold to, and in how many compressed files this one stands. */
interface Unfolding {
  limit: { left: number };
  layers: number;
}

async function* readStream(stream: Readable, name: string, { limit, layers }: Unfolding, options: MailFileOptions): AsyncGenerator<Found> {
  const [first, all] = await peeked(stream);
  if (first.length === 0) {
    yield { problem: { file: name, reason: 'The file is empty.' } };
    return;
  }
  if (first[0] === 0x1f && first[1] === 0x8b) {
    if (layers === MAX_LAYERS) {
      stream.destroy();
      yield { problem: { file: name, reason: `It is compressed more than ${MAX_LAYERS} times. Unpack it and import what is in it.` } };
      return;
    }
    const unfolded = chained(Readable.from(all), createGunzip(), limited(limit));
    yield* readStream(unfolded, name.replace(/\.gz$/i, ''), { limit, layers: layers + 1 }, options);
    return;
  }
  if (/^\s*From /.test(first.subarray(0, 256).toString('latin1'))) yield* readMbox(all, name, options);
  else yield* readSingle(all, first, name, options);
}

async function* readMbox(chunks: AsyncIterable<Buffer>, name: string, options: MailFileOptions): AsyncGenerator<Found> {
  const splitter = new MboxSplitter(options.maxMessageBytes ?? MAX_MESSAGE_BYTES);
  const found = (message: { raw: Uint8Array; separator: string; cutBytes: number }): Found => {
    const [sender = ''] = message.separator.split(/\s+/, 1);
    return {
      message: {
        raw: message.raw,
        file: name,
        envelope: { sender, date: readDate(message.separator.slice(sender.length)) },
        cutBytes: message.cutBytes,
      },
    };
  };
  for await (const chunk of chunks) for (const message of splitter.push(chunk)) yield found(message);
  for (const message of splitter.end()) yield found(message);
}

async function* readSingle(chunks: AsyncIterable<Buffer>, first: Buffer, name: string, options: MailFileOptions): AsyncGenerator<Found> {
  if (!looksLikeMessage(first) && !/\.(?:eml|email|mail|mbox|mime|msg)$/i.test(name)) {
    yield { problem: { file: name, reason: 'This is no email: it does not begin with header fields such as “From: …”.' } };
    return;
  }
  const most = options.maxMessageBytes ?? MAX_MESSAGE_BYTES;
  const kept: Buffer[] = [];
  let length = 0;
  let cutBytes = 0;
  for await (const chunk of chunks) {
    const room = Math.max(0, most - length);
    kept.push(chunk.subarray(0, room));
    length += Math.min(room, chunk.length);
    cutBytes += Math.max(0, chunk.length - room);
  }
  yield { message: { raw: Buffer.concat(kept), file: name, envelope: { sender: '', date: null }, cutBytes } };
}

/** Header fields, possibly after empty lines, in the first bytes. */
function looksLikeMessage(first: Buffer): boolean {
  const start = first
    .subarray(0, 4096)
    .toString('latin1')
    .replace(/^\ufeff|^ï»¿/, '')
    .trimStart();
  if (start.slice(0, 512).includes('\u0000\u0000')) return false;
  return /^[!-9;-~]{1,76}[ \t]*:/.test(start);
}

async function* readZip(
  path: string,
  name: string,
  size: number,
  limit: { left: number },
  options: MailFileOptions,
): AsyncGenerator<Found> {
  const zip = await openZip(path, size);
  try {
    let entries = 0;
    for await (const entry of zipEntries(zip)) {
      options.onBytes?.(entry.compressedSize);
      const inside = `${name}/${entry.fileName}`;
      if (entry.fileName.endsWith('/') || /(?:^|\/)(?:__MACOSX\/|\.DS_Store$|\._)/.test(entry.fileName)) continue;
      entries += 1;
      if (entries > MAX_ENTRIES) throw new UnfoldLimitError('The archive has more than a million files.');
      const stored = await storedBytes(zip, entry);
      // Unpacked here, and not by the zip reader: of damaged bytes it says nothing, and whoever reads would wait for ever.
      const unpack = entry.compressionMethod === DEFLATED ? [createInflateRaw()] : [];
      yield* readStream(chained(stored, ...unpack, limited(limit)), inside, { limit, layers: 1 }, options);
    }
  } finally {
    zip.close();
  }
}

/** The bytes of an entry as they lie in the archive. */
function storedBytes(zip: ZipFile, entry: Entry): Promise<Readable> {
  const options = { decompress: entry.compressionMethod === DEFLATED ? false : null, decrypt: null, start: null, end: null };
  return new Promise((resolve, reject) => {
    zip.openReadStream(entry, options, (error, opened) => {
      if (error) reject(error);
      else resolve(opened);
    });
  });
}

/** Positioned reads of a file for the zip reader. */
class FileReader extends RandomAccessReader {
  constructor(private readonly path: string) {
    super();
  }

  override _readStreamForRange(start: number, end: number): Readable {
    return createReadStream(this.path, { start, end: end - 1 });
  }

  /** A place behind the end of the file, as a damaged archive names, is an error: the reader's own way would wait for it for ever. */
  override read(buffer: Buffer, offset: number, length: number, position: number, callback: (error: Error | null) => void): void {
    readAt(this.path, buffer, { offset, length, position }).then(
      () => setImmediate(callback, null),
      (error: unknown) => setImmediate(callback, error instanceof Error ? error : new Error(String(error))),
    );
  }
}

async function readAt(path: string, buffer: Buffer, place: { offset: number; length: number; position: number }): Promise<void> {
  const handle = await open(path, 'r');
  try {
    const { bytesRead } = await handle.read(buffer, place.offset, place.length, place.position);
    if (bytesRead < place.length) throw new Error('The archive is damaged: it names a place behind its end.');
  } finally {
    await handle.close();
  }
}

function openZip(path: string, size: number): Promise<ZipFile> {
  return new Promise((resolve, reject) => {
    fromRandomAccessReader(new FileReader(path), size, { lazyEntries: true, autoClose: false }, (error, zip) => {
      if (error) reject(error);
      else resolve(zip);
    });
  });
}

async function* zipEntries(zip: ZipFile): AsyncGenerator<Entry> {
  for (;;) {
    const entry = await new Promise<Entry | null>((resolve, reject) => {
      const settle = (): void => {
        zip.removeListener('entry', onEntry);
        zip.removeListener('end', onEnd);
        zip.removeListener('error', onError);
      };
      const onEntry = (next: Entry): void => {
        settle();
        resolve(next);
      };
      const onEnd = (): void => {
        settle();
        resolve(null);
      };
      const onError = (error: Error): void => {
        settle();
        reject(error);
      };
      zip.once('entry', onEntry);
      zip.once('end', onEnd);
      zip.once('error', onError);
      zip.readEntry();
    });
    if (!entry) return;
    yield entry;
  }
}

/** The last of the streams; an error in any of them is thrown where it is read. */
function chained(...streams: [Readable, ...Transform[]]): Readable {
  const last = streams.at(-1);
  if (!last) throw new Error('nothing to chain');
  pipeline(streams, () => undefined);
  return last;
}

function limited(limit: { left: number }): Transform {
  return new Transform({
    transform(chunk: Buffer, _encoding, done) {
      limit.left -= chunk.length;
      if (limit.left < 0) done(new UnfoldLimitError('The archive unfolds to far more than its size allows; it looks made to do harm.'));
      else done(null, chunk);
    },
  });
}

/** The first chunk, and a source that gives everything, that chunk included. */
async function peeked(stream: Readable): Promise<[Buffer, AsyncIterable<Buffer>]> {
  const iterator = stream[Symbol.asyncIterator]() as AsyncIterator<Buffer>;
  const held: Buffer[] = [];
  let length = 0;
  while (length < 5) {
    const next = await iterator.next();
    if (next.done) break;
    held.push(next.value);
    length += next.value.length;
  }
  const first = Buffer.concat(held);
  return [
    first,
    (async function* () {
      yield first;
      for (;;) {
        const next = await iterator.next();
        if (next.done) return;
        yield next.value;
      }
    })(),
  ];
}
