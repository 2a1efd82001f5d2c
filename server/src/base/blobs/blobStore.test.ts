import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { createHash } from 'node:crypto';
import { mkdtemp, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { FolderBlobStore } from './blobStore';

let folder: string;
let store: FolderBlobStore;
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'fulvet-blobs-'));
  store = new FolderBlobStore(join(folder, 'packs'));
});
afterEach(async () => {
  await store.close();
  await rm(folder, { recursive: true, force: true });
});

describe('FolderBlobStore', () => {
  test('gives back what was put, named by its content', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.uint8Array({ maxLength: 500 }), { maxLength: 6 }), async (blobs) => {
        const places = await store.put(blobs);
        for (const [at, place] of places.entries()) {
          expect(Buffer.from(await store.get(place))).toEqual(Buffer.from(blobs[at] ?? []));
          expect(place.sha256).toBe(
            createHash('sha256')
              .update(blobs[at] ?? new Uint8Array())
              .digest('hex'),
          );
        }
      }),
      { numRuns: 30 },
    );
  });

  test('puts that overlap in time do not overlap in the file', async () => {
    const texts = Array.from({ length: 40 }, (_, at) => new TextEncoder().encode(`${at} `.repeat(at * 20)));
    const places = (await Promise.all(texts.map((text) => store.put([text])))).flat();
    const back = await Promise.all(places.map((place) => store.get(place)));
    expect(back.map((array) => Buffer.from(array).toString())).toEqual(texts.map((text) => Buffer.from(text).toString()));
  });

  test('another process writes a pack of its own and reads ours', async () => {
    const [ours] = await store.put([new Uint8Array([1, 2, 3])]);
    const other = new FolderBlobStore(join(folder, 'packs'));
    await other.put([new Uint8Array([4])]);
    expect(await readdir(join(folder, 'packs'))).toHaveLength(2);
    expect([...(await other.get(ours!))]).toEqual([1, 2, 3]);
    await other.close();
  });

  test('a pack that is gone is an error, not an empty email', async () => {
    await expect(store.get({ pack: 'gone.pack', position: 0, length: 3, size: 3 })).rejects.toThrow('ENOENT');
  });

  test('a damaged blob is an error', async () => {
    const [place] = await store.put([new TextEncoder().encode('hello '.repeat(100))]);
    await expect(store.get({ ...place!, position: place!.position + 1 })).rejects.toThrow();
  });
});
