import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { PAGES } from '../../web/src/frame/pages';
import type { Stage } from './browser';
import { openStage, signInAs } from './browser';
import { violations } from './testing/violations';

/** Pages by their paths; where a path has parameters, one of each kind. */
const PATHS = [
  ...Object.values(PAGES)
    .map(({ path }) => path as string)
    .filter((path) => !path.includes(':') && path !== '/records'),
  '/search?text=gauge',
  '/records/account',
  '/records/deal?as=board',
  '/records/account/1',
  '/records/deal/1',
  '/duplicates/contact',
  '/record-setup/deal',
  '/all-mail?decision=12',
];

let stage: Stage;
beforeAll(async () => {
  stage = await openStage({ demo: true });
  await signInAs(stage.page, stage.server.url, 'hedda.quillmere@quillmere.example');
}, 240_000);
afterAll(() => stage.close());

/** The dark theme has the same marks in other colours: pages that have all of them. */
const IN_DARK = ['/', '/match', '/records/account/1', '/all-mail?decision=12'];

describe('axe finds nothing', () => {
  test.each([...PATHS.map((path) => [path, 'light']), ...IN_DARK.map((path) => [path, 'dark'])])('on %s, %s', async (path, theme) => {
    const { page, server } = stage;
    await page.emulateMediaFeatures([{ name: 'prefers-color-scheme', value: theme }]);
    await page.goto(`${server.url}${path}`, { waitUntil: 'networkidle2' });
    await page.waitForSelector('main h1, main h2');
    expect(await violations(page)).toEqual([]);
  });
});
