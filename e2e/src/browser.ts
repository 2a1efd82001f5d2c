import { makeDemo } from '@fulvet/demo';
import { rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import puppeteer from 'puppeteer-core';
import type { Browser, ElementHandle, Page } from 'puppeteer-core';
import type { ServerOptions } from '../../server/src/main';
import { testCluster } from '../../server/src/testing/testDatabase';
import type { Kept, TestServer } from '../../server/src/testing/testServer';
import { startTestServer } from '../../server/src/testing/testServer';

/** Where the built interface is. */
export const webFolder = join(process.cwd(), 'dist', 'web');

/** A machine that does other things beside it takes its time. */
const WAIT_MS = 60_000;

/** An installation and a browser looking at it. */
export interface Stage {
  server: TestServer;
  browser: Browser;
  page: Page;
  /** What went wrong in the page by itself: exceptions, refused loads, requests to other hosts. */
  faults: string[];
  close: () => Promise<void>;
}

export async function openStage(options: { demo: boolean; width?: number; server?: Partial<ServerOptions> }): Promise<Stage> {
  const server = await startTestServer({ webFolder, ...options.server }, options.demo ? await demoWorld() : undefined);
  const browser = await openBrowser();
  const page = await browser.newPage();
  page.setDefaultTimeout(WAIT_MS);
  await page.setViewport({ width: options.width ?? 1280, height: 800 });
  const faults: string[] = [];
  page.on('pageerror', (error) => faults.push(`exception: ${error instanceof Error ? error.message : String(error)}`));
  page.on('console', (message) => {
    if (message.text().includes('Content Security Policy')) faults.push(message.text());
  });
  page.on('request', (request) => {
    if (!request.url().startsWith(server.url) && !request.url().startsWith('data:')) faults.push(`request to ${request.url()}`);
  });
  return {
    server,
    browser,
    page,
    faults,
    close: async () => {
      await browser.close();
      await server.remove();
    },
  };
}

/** A browser without a window. */
export async function openBrowser(): Promise<Browser> {
  const executablePath = process.env.CHROMIUM_PATH;
  if (!executablePath) throw new Error('CHROMIUM_PATH is not set. Run the tests by npm test.');
  return puppeteer.launch({
    executablePath,
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
    ],
  });
}

/** The demo world, made once for all tests of a cluster. */
async function demoWorld(): Promise<Kept> {
  const cluster = testCluster();
  const kept = { database: 'template_demo', folder: join(process.env.FULVET_TEST_FOLDER ?? tmpdir(), `demo-${new URL(cluster).port}`) };
  const client = new pg.Client({ connectionString: cluster });
  await client.connect();
  try {
    await client.query('SELECT pg_advisory_lock(460901)');
    const { rowCount } = await client.query('SELECT FROM pg_database WHERE datname = $1', [kept.database]);
    if (rowCount) return kept;
    await rm(kept.folder, { recursive: true, force: true });
    const server = await startTestServer();
    await makeDemo(server.services, { folder: server.dataFolder, now: Date.now(), say: () => undefined, emails: 420 });
    await server.keep(kept);
    return kept;
  } finally {
    await client.end();
  }
}

export async function signInAs(page: Page, url: string, email: string, password = 'tide-gauge-demo'): Promise<void> {
  await page.goto(url);
  await page.waitForSelector('input[name=email]');
  await page.type('input[name=email]', email);
  await page.type('input[name=password]', password);
  await page.keyboard.press('Enter');
  await page.waitForSelector('nav[aria-label="Steps"]');
}

/** Waits until the page's text holds the words; what it says instead is in the error. */
export async function seen(page: Page, words: string | RegExp): Promise<string> {
  const source = typeof words === 'string' ? words.replace(/[.*+?^${}()|[\]\\]/g, '\\$&') : words.source;
  try {
    const found = await page.waitForFunction(
      (pattern) => new RegExp(pattern).exec(document.body.innerText)?.[0],
      { timeout: WAIT_MS },
      source,
    );
    return String(await found.jsonValue());
  } catch (error) {
    const says = await page.evaluate(() => document.body.innerText.slice(-3000));
    throw new Error(`${page.url()} does not show “${source}” after ${WAIT_MS / 1000} s. It ends with: ${says}`, { cause: error });
  }
}

/** Opens the list of choices of this name and takes the first one whose text fits. */
export async function choose(page: Page, list: string, text: RegExp): Promise<void> {
  const box = await page.waitForFunction(
    (name) =>
      [...document.querySelectorAll('[role=combobox]')].find(
        (element) => element.getAttribute('aria-label') === name || element.closest('label')?.firstChild?.textContent === name,
      ),
    {},
    list,
  );
  await (box as unknown as ElementHandle<Element>).click();
  const option = await page.waitForFunction(
    (pattern) => [...document.querySelectorAll('[role=option]')].find((element) => new RegExp(pattern).test(element.textContent ?? '')),
    {},
    text.source,
  );
  await (option as unknown as ElementHandle<Element>).click();
}

/** Presses what the notice in front offers: to undo what was done. */
export const pressUndo = (page: Page): Promise<void> => page.locator('[data-sonner-toast][data-front=true] button ::-p-text(Undo)').click();

/** Clicks the button or link with this name. */
export async function press(page: Page, name: string): Promise<void> {
  await page.locator(`::-p-aria(${name})`).click();
}
