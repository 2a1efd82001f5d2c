import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Stage } from './browser';
import { openStage, press, seen } from './browser';

let stage: Stage;
beforeAll(async () => {
  stage = await openStage({ demo: false });
}, 120_000);
afterAll(() => stage.close());

test('an empty installation leads through the first set-up, with cautious defaults', async () => {
  const { page, server } = stage;
  await page.goto(server.url);
  await seen(page, 'Set up Fulvet');
  await page.type('input[name=name]', 'Ada Admin');
  await page.type('input[name=email]', 'ada@own.example');
  await page.type('input[name=password]', 'a long enough one');
  await page.focus('input[name=ownDomains]');
  await page.keyboard.type(', not_a domain');
  await press(page, 'Set up');
  await seen(page, 'not_a, domain are no domains: they look like harbour.example');
  await page.click('input[name=ownDomains]', { count: 3 });
  await page.keyboard.type('own.example');
  await press(page, 'Set up');
  await seen(page, 'Welcome, Ada');
  await page.goto(`${server.url}/share`);
  await seen(page, 'only the owners of its mailboxes');
  await page.goto(`${server.url}/create`);
  await seen(page, /becomes nothing/);
  expect(stage.faults).toEqual([]);
});

test('a sample world is loaded into it and removed again, one click each', async () => {
  const { page, server } = stage;
  await page.goto(server.url);
  await seen(page, 'Welcome, Ada');
  await press(page, 'Load a sample world');
  await seen(page, 'The sample world is loaded');
  await seen(page, 'Good ');
  await seen(page, /Set-up: \d of 7 steps done/);
  await page.goto(`${server.url}/all-mail?outcome=filed`);
  await seen(page, 'Quote SMP-101');
  await page.goto(`${server.url}/all-mail`);
  await seen(page, 'Site visit');
  await page.focus('[role=grid]');
  await page.keyboard.press('Enter');
  await seen(page, 'Weir at the old mill');
  await page.goto(`${server.url}/desk`);
  await seen(page, 'Which of these 2 deals?');
  await page.goto(server.url);
  await press(page, 'Remove the sample world');
  await seen(page, 'The sample world is removed');
  await seen(page, 'Welcome, Ada');
  await page.waitForFunction(() => document.body.innerText.includes('Load a sample world'));
  expect(stage.faults).toEqual([]);
});
