import type { Page } from 'puppeteer-core';
import { openBrowser, openStage, signInAs, webFolder } from '../../e2e/src/browser';
import { PASSWORD } from '../../server/src/testing/testServer';
import { PAGES } from '../../web/src/frame/pages';
import { report } from './measure';
import { measuredWorld, SIZES } from './world/measuredWorld';

/** How often each page is opened. */
const ROUNDS = 3;
/** Goals in milliseconds: the server's answers in the middle and of a hundred the slowest, and the slowest interaction. */
const GOALS = { middle: 50, slowest: 200, interaction: 200 };

/** What a page took: milliseconds. */
interface PageTimes {
  /** From the request of an answer until its first byte. */
  answers: number[];
  /** Until the largest content is there. */
  content: number[];
}

/** Pages without parameters, and the first record, as an administrator opens them. */
const PATHS: readonly string[] = [
  ...Object.values(PAGES)
    .map(({ path }) => path)
    .filter((path) => !path.includes(':')),
  '/records/account',
  '/records/contact',
  '/records/account/1',
];

async function openPage(page: Page, url: string): Promise<{ answers: number[]; content: number }> {
  await page.goto(url, { waitUntil: 'domcontentloaded' });
  await page.waitForSelector('main h1');
  await page.waitForNetworkIdle({ idleTime: 300, timeout: 60_000, concurrency: 1 });
  return page.evaluate(async () => {
    const content = await new Promise<number>((resolve) => {
      new PerformanceObserver((list) => resolve(list.getEntries().at(-1)?.startTime ?? 0)).observe({
        type: 'largest-contentful-paint',
        buffered: true,
      });
    });
    const asked = (performance.getEntriesByType('resource') as PerformanceResourceTiming[]).filter(
      ({ name, responseStart }) => name.includes('/api/v1/') && !name.endsWith('/changes') && responseStart > 0,
    );
    return { answers: asked.map(({ requestStart, responseStart }) => responseStart - requestStart), content };
  });
}

/** The slowest answer of the page to a key, a click or a letter, until the next picture (the Event Timing API, of 16 ms and more). */
async function interactions(page: Page, url: string): Promise<Record<string, number>> {
  await page.goto(`${url}/all-mail`, { waitUntil: 'domcontentloaded' });
  await page.waitForSelector('[role=grid] [role=row]');
  await page.evaluate(() => {
    const told = window as unknown as { slowest: number };
    told.slowest = 0;
    new PerformanceObserver((list) => {
      for (const { duration } of list.getEntries()) told.slowest = Math.max(told.slowest, duration);
    }).observe({ type: 'event', durationThreshold: 16, buffered: false } as PerformanceObserverInit);
  });
  const during = async (work: () => Promise<unknown>): Promise<number> => {
    await page.evaluate(() => ((window as unknown as { slowest: number }).slowest = 0));
    await work();
    // What was done last is told with a later picture.
    await page.evaluate(() => new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve))));
    await page.evaluate(() => new Promise((resolve) => setTimeout(resolve, 200)));
    return page.evaluate(() => (window as unknown as { slowest: number }).slowest);
  };
  const times: Record<string, number> = {};
  await page.focus('[role=grid]');
  times['moving down the list'] = await during(async () => {
    for (let step = 0; step < 40; step += 1) await page.keyboard.press('ArrowDown');
  });
  times['a screen further'] = await during(async () => {
    for (let step = 0; step < 8; step += 1) await page.keyboard.press('PageDown');
  });
  times['opening a decision'] = await during(async () => {
    await page.keyboard.press('Enter');
    await page.waitForFunction(() => location.search.includes('decision='));
  });
  await page.keyboard.press('Escape');
  const words = await page.waitForSelector('input[placeholder=Words]');
  times['typing in a filter'] = await during(async () => {
    await words?.type('calibration', { delay: 30 });
  });
  return times;
}

async function lookAt(page: Page, url: string): Promise<{ pages: Record<string, PageTimes>; slowest: Record<string, number> }> {
  const pages: Record<string, PageTimes> = {};
  for (const path of PATHS) {
    const times: PageTimes = { answers: [], content: [] };
    for (let round = 0; round < ROUNDS; round += 1) {
      const { answers, content } = await openPage(page, `${url}${path}`);
      times.answers.push(...answers);
      times.content.push(content);
    }
    pages[path] = times;
  }
  return { pages, slowest: await interactions(page, url) };
}

const at = (values: readonly number[], share: number): number =>
  [...values].sort((first, second) => first - second)[Math.min(values.length - 1, Math.floor(values.length * share))] ?? 0;

function tell(title: string, { pages, slowest }: Awaited<ReturnType<typeof lookAt>>): void {
  const ms = (value: number): string => value.toFixed(0);
  const over = (value: number, goal: number): string => (value > goal ? ` (goal ${goal})` : '');
  report(`${title}: answers of the server, middle and 99th of a hundred, and content there, in ms`, [
    ...Object.entries(pages).map(([path, { answers, content }]): [string, string] => {
      const [middle, late] = [at(answers, 0.5), at(answers, 0.99)];
      return [path, `${ms(middle)}${over(middle, GOALS.middle)}, ${ms(late)}${over(late, GOALS.slowest)}, content ${ms(at(content, 0.5))}`];
    }),
    ...Object.entries(slowest).map(([name, value]): [string, string] => [
      name,
      `${ms(value)} until the next picture${over(value, GOALS.interaction)}`,
    ]),
  ]);
}

/** Every page in a browser, of the demo and of a million emails: how soon the server answers, content stands there, and keys are answered. */
async function main(): Promise<void> {
  const demo = await openStage({ demo: true });
  try {
    await signInAs(demo.page, demo.server.url, 'hedda.quillmere@quillmere.example');
    tell('the demo', await lookAt(demo.page, demo.server.url));
  } finally {
    await demo.close();
  }
  const most = SIZES.at(-1) ?? 0;
  await measuredWorld(
    most,
    async (server) => {
      const browser = await openBrowser();
      try {
        const page = await browser.newPage();
        await page.setViewport({ width: 1280, height: 800 });
        await signInAs(page, server.url, 'admin@quillmere.example', PASSWORD);
        tell(`${most} emails`, await lookAt(page, server.url));
      } finally {
        await browser.close();
      }
    },
    { webFolder },
  );
}

await main();
