import { Refusal, isRefusal } from '../../base/refusal';
import type { User } from '@fulvet/contract';
import { createWriteStream } from 'node:fs';
import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Services } from '../../base/services';
import { uploadName } from './importRun';
import { addImportBytes, addImportFile } from './queries';

const MOST_DROPPED = 16 * 1024 * 1024;

/** A file as it is sent for an import. */
export interface SentFile {
  name: string;
  /** How many bytes its sender says that it has; 0 where it says nothing. */
  saidBytes: number;
  bytes: Readable;
}

/** Takes a file for an open import, as far as there is room for it. @returns how many bytes it had */
export async function takeFile(
  { database, uploads, uploadQuota }: Pick<Services, 'database' | 'uploads' | 'uploadQuota'>,
  user: User,
  importId: number,
  file: SentFile,
): Promise<{ bytes: number } | Refusal> {
  const position = await database.as(user.id, (tx) => addImportFile(tx, importId, file.name));
  if (position === null) return new Refusal('conflict', 'not-open', 'This import takes no more files: it was started, or it is not yours.');
  const folder = join(uploads, String(importId));
  await mkdir(folder, { recursive: true, mode: 0o700 });
  const room = await uploadQuota.room(database, user, folder);
  if (isRefusal(room)) return room;
  if (file.saidBytes > room) return uploadQuota.tooLarge(room);
  const path = join(folder, uploadName(position));
  let bytes = 0;
  const limit = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      bytes += chunk.length;
      uploadQuota.count(user, chunk.length);
      // A little more is read and dropped, so that the sender gets to hear the answer.
      if (bytes > room + MOST_DROPPED) done(new Error('the file is far larger than what may be uploaded'));
      else if (bytes > room) done();
      else done(null, chunk);
    },
  });
  try {
    await pipeline(file.bytes, limit, createWriteStream(path, { mode: 0o600 }));
    if (bytes > room) {
      await rm(path, { force: true });
      return uploadQuota.tooLarge(room);
    }
  } catch (error) {
    await rm(path, { force: true });
    if (bytes > room) return uploadQuota.tooLarge(room);
    throw error;
  } finally {
    uploadQuota.count(user, -bytes);
  }
  await database.as(user.id, (tx) => addImportBytes(tx, importId, bytes));
  return { bytes };
}
