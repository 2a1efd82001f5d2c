import { afterAll, afterEach, beforeAll, expect } from '@jest/globals';
import type { Stage } from '../browser';
import { openStage, pressUndo, seen, signInAs } from '../browser';

// The demo world, open in a browser, for the tests of daily work.

const ADMIN = 'hedda.quillmere@quillmere.example';
export let stage: Stage;
beforeAll(async () => {
  stage = await openStage({ demo: true });
  await signInAs(stage.page, stage.server.url, ADMIN);
}, 240_000);
afterAll(() => stage.close());
afterEach(() => expect(stage.faults.splice(0)).toEqual([]));
export const open = async (path: string, words: string | RegExp): Promise<string> => {
  await stage.page.goto(stage.server.url + path);
  return seen(stage.page, words);
};
export const key = async (...keys: string[]): Promise<void> => {
  for (const value of keys) await stage.page.keyboard.press(value as never);
};
export const inDatabase = async <T>(statement: string): Promise<T[]> =>
  (await stage.server.services.database.workerPool.query(statement)).rows as T[];
/** The newest notice stands last. */
export const undo = (): Promise<void> => pressUndo(stage.page);
