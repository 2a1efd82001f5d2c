import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { KeyInput } from 'puppeteer-core';
import type { Stage } from './browser';
import { openStage, seen } from './browser';

const admin = 'hedda.quillmere@quillmere.example';
let stage: Stage;

beforeAll(async () => {
  stage = await openStage({ demo: true });
  const { page, server } = stage;
  await page.goto(server.url);
  await tabTo(/^Address|email/i);
  await page.keyboard.type(admin);
  await tabTo(/^Password/);
  await page.keyboard.type('tide-gauge-demo');
  await key('Enter');
  await page.waitForSelector('nav[aria-label="Steps"]');
  // From here on a pointer is of no use.
  await page.evaluate(() => {
    for (const kind of ['pointerdown', 'mousedown'])
      window.addEventListener(
        kind,
        (event) => {
          event.stopImmediatePropagation();
          event.preventDefault();
        },
        true,
      );
  });
}, 240_000);
afterAll(() => stage.close());

const key = (name: KeyInput): Promise<void> => stage.page.keyboard.press(name);

/** What a screen reader calls the element that has the focus. */
const focused = (): Promise<string> =>
  stage.page.evaluate(() => {
    const element = document.activeElement;
    if (!element) return '';
    const label = element.closest('label') ?? document.querySelector(`label[for="${CSS.escape(element.id)}"]`);
    return (element.getAttribute('aria-label') ?? (label?.textContent || element.textContent)).trim();
  });

/** Goes on by Tab until something of this name has the focus. */
async function tabTo(name: RegExp, most = 150): Promise<void> {
  const passed: string[] = [];
  for (let step = 0; step < most; step += 1) {
    await key('Tab');
    const at = await focused();
    if (name.test(at)) return;
    passed.push(at.slice(0, 40));
  }
  throw new Error(`Tab does not lead to ${String(name)}, but to: ${passed.slice(-60).join(' | ')}`);
}

/** Opens a page, or a record, by the list that finds everything. */
async function find(text: string, words: string | RegExp): Promise<void> {
  const { page } = stage;
  await page.keyboard.down('Control');
  await key('k');
  await page.keyboard.up('Control');
  // At once: what is typed before the list is there is taken in, too.
  await page.keyboard.type(text);
  const isMarked = (timeout: number): Promise<unknown> =>
    page.waitForFunction(
      (wanted) => document.querySelector('[role=dialog] [role=option][aria-selected=true]')?.textContent?.toLowerCase().includes(wanted),
      { timeout },
      text.toLowerCase(),
    );
  // A busy machine may mark what it found before: the same is typed once more.
  await isMarked(8000).catch(async () => {
    await page.$eval('[role=dialog] [role=combobox]', (field) => (field as HTMLInputElement).select());
    await page.keyboard.type(text);
    await key('Home');
    await isMarked(20_000);
  });
  await key('Enter');
  await seen(page, words);
}

/** Opens the choice that has the focus, and takes what begins with these words. */
async function take(words: string): Promise<void> {
  const { page } = stage;
  await key('Enter');
  await page.waitForSelector('[role=option]');
  for (let step = 0; step < 40; step += 1) {
    if ((await focused()).startsWith(words)) return key('Enter');
    await key('ArrowDown');
  }
  throw new Error(`There is no choice “${words}”.`);
}

/** The corrections that stand, once the newest notice says this. */
async function standing(notice: string, pins: number): Promise<unknown[]> {
  await stage.page.waitForFunction(
    (text) => document.querySelector('[data-sonner-toast][data-front=true]')?.textContent?.includes(text),
    {},
    notice,
  );
  const { rows } = await stage.server.services.database.workerPool.query('SELECT does, reach FROM pins WHERE released_at IS NULL');
  expect(rows).toHaveLength(pins);
  return rows;
}

describe('by keyboard alone', () => {
  test('a customer’s history is found', async () => {
    await find('northreach ports', 'Northreach Ports');
    expect(stage.page.url()).toContain('/records/account/');
  });

  test('a domain is kept out, after its effect was shown, and allowed again', async () => {
    const { page } = stage;
    await find('keep out', /domains? (?:or address|and addresses) kept out/);
    await tabTo(/^Domain or address to keep out/);
    await page.keyboard.type('northreach.example');
    await key('Enter');
    await seen(page, /emails? would be kept out/);
    await tabTo(/^Keep out northreach\.example/);
    await key('Enter');
    await page.waitForFunction(() => document.querySelector('[role=dialog]') === null);
    await tabTo(/^Allow again … \(northreach\.example\)/);
    await key('Enter');
    await seen(page, /would no longer be kept out/);
    await tabTo(/^Allow northreach\.example again/);
    await key('Enter');
    await seen(page, /northreach\.example is allowed again/);
  });

  test('a rule is written, tried out on past mail, and put live', async () => {
    const { page } = stage;
    await find('take in', 'Says which of the remaining email is filed at all');
    await tabTo(/^Add a rule/);
    await key('Enter');
    await seen(page, 'A rule needs at least one condition');
    await tabTo(/^Add a condition/);
    await take('the subject');
    await tabTo(/^Words/);
    await page.keyboard.type('calibration');
    await tabTo(/^What happens/);
    await take('leave it to its owner');
    await seen(page, /It would change [1-9]/);
    await tabTo(/^Add to the draft/);
    await key('Enter');
    await seen(page, 'Draft: 1 change, not in force');
    await tabTo(/^Run a trial on past mail/);
    await key('Enter');
    await seen(page, /[\d,]+ of [\d,]+ emails|would change/);
    await tabTo(/^Put live …/);
    await key('Enter');
    await page.waitForSelector('[role=dialog]');
    await tabTo(/^Put live/);
    await key('Enter');
    await page.waitForFunction(() => document.querySelector('[role=dialog]') === null);
    await page.waitForFunction(() => !document.body.innerText.includes('not in force'));
  });

  test('a question at the sorting desk is answered, and the answer undone', async () => {
    const { page } = stage;
    await find('sorting desk', /\d+ questions? left/);
    await page.waitForSelector('section[aria-label="The question"] ol button');
    await key('1');
    const [pinned] = await standing('Filed a conversation under', 1);
    expect(pinned).toMatchObject({ does: 'file', reach: 'conversation' });
    await page.keyboard.down('Alt');
    await key('t');
    await page.keyboard.up('Alt');
    await tabTo(/^Undo/, 8);
    await key('Enter');
    await standing('Undone', 0);
  });
});

test('nothing went wrong in the pages', () => {
  expect(stage.faults).toEqual([]);
});
