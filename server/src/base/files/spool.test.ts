import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { mkdtemp, readdir, rm, utimes, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { piecesOf, removeStaleSpooled, spool } from './spool';

let folder: string;
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'fulvet-spool-'));
});
afterEach(() => rm(folder, { recursive: true, force: true }));

async function* coming(...pieces: string[]): AsyncGenerator<Uint8Array> {
  for (const piece of pieces) {
    await Promise.resolve();
    yield Buffer.from(piece);
  }
}
const read = async (file: Parameters<typeof piecesOf>[0], bytes: number): Promise<string[]> => {
  const pieces: string[] = [];
  for await (const piece of piecesOf(file, bytes)) pieces.push(piece.toString());
  return pieces;
};

test('what comes in is on disk until it is removed, and read in pieces', async () => {
  const spooled = await spool(join(folder, 'new'), coming('abc', '', 'defg'), 7);
  expect(spooled?.size).toBe(7);
  expect(spooled && (await read(spooled, 3))).toEqual(['abc', 'def', 'g']);
  expect(spooled && (await read(spooled, 100))).toEqual(['abcdefg']);
  await spooled?.remove();
  expect(await readdir(join(folder, 'new'))).toEqual([]);
});

test('an empty file has no piece', async () => {
  const spooled = await spool(folder, coming(), 7);
  expect(spooled && (await read(spooled, 3))).toEqual([]);
});

test('of what is too large, or breaks off, nothing stays, and no more is read', async () => {
  let asked = 0;
  async function* endless(): AsyncGenerator<Uint8Array> {
    for (;;) {
      asked += 1;
      await Promise.resolve();
      yield Buffer.alloc(10);
    }
  }
  expect(await spool(folder, endless(), 35)).toBeNull();
  expect(asked).toBe(4);
  async function* broken(): AsyncGenerator<Uint8Array> {
    yield* coming('abc');
    throw new Error('the sender went away');
  }
  await expect(spool(folder, broken(), 35)).rejects.toThrow('went away');
  expect(await readdir(folder)).toEqual([]);
});

test('what a process left behind goes after a day, and nothing else', async () => {
  for (const name of ['spooled-old', 'spooled-new', 'other']) await writeFile(join(folder, name), 'x');
  const longAgo = new Date(Date.now() - 2 * 86_400_000);
  for (const name of ['spooled-old', 'other']) await utimes(join(folder, name), longAgo, longAgo);
  await removeStaleSpooled(folder);
  expect((await readdir(folder)).sort()).toEqual(['other', 'spooled-new']);
  await removeStaleSpooled(join(folder, 'not there'));
});
