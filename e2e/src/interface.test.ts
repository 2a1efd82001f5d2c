import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { mbox } from '../../server/src/testing/testServer';
import type { Stage } from './browser';
import { choose, openStage, press, seen, signInAs } from './browser';
import { noteShifts, shiftsOf } from './testing/shifts';

const admin = 'hedda.quillmere@quillmere.example';
const rep = 'nadia.okonjira@quillmere.example';
let stage: Stage;

beforeAll(async () => {
  stage = await openStage({ demo: true });
}, 240_000);
afterAll(() => stage.close());

const open = async (path: string, words: string | RegExp): Promise<void> => {
  await stage.page.goto(stage.server.url + path);
  await seen(stage.page, words);
};
const total = async (): Promise<number> => Number((await seen(stage.page, /[\d,]+ emails?\b/)).replace(/\D/g, ''));

describe('entry', () => {
  test('a wrong password says so, the right one leads to the line', async () => {
    const { page, server } = stage;
    await page.goto(server.url);
    await page.waitForSelector('input[name=email]');
    await page.type('input[name=email]', admin);
    await page.type('input[name=password]', 'not this one');
    await page.keyboard.press('Enter');
    await seen(page, 'Address or password is wrong.');
    await signInAs(page, server.url, admin);
    await seen(page, 'What is in force');
  });

  test('nothing moves away under the pointer while a page loads on a slow machine', async () => {
    const { page, server } = stage;
    const [account] = (await server.services.database.workerPool.query<{ id: string }>('SELECT id FROM accounts ORDER BY id LIMIT 1')).rows;
    await noteShifts(page);
    await page.emulateCPUThrottling(4);
    const moved: Record<string, unknown> = {};
    for (const path of ['/', '/mailboxes', '/team', '/desk', '/all-mail', '/records/contact', `/records/account/${account?.id ?? ''}`]) {
      await page.goto(server.url + path, { waitUntil: 'networkidle2' });
      await page.waitForFunction(() => document.querySelector('main h1') && !document.querySelector('main [aria-busy=true]'));
      const shifts = await shiftsOf(page);
      if (shifts.sum > 0.02) moved[path] = shifts;
    }
    await page.emulateCPUThrottling(null);
    expect(moved).toEqual({});
  });

  test('the first load transfers under 120 kB of JavaScript; what draws charts follows when the page is there', async () => {
    const { page, server } = stage;
    // What the page before is still loading is no part of it.
    await page.waitForSelector('.recharts-surface');
    const network = await page.createCDPSession();
    await network.send('Network.enable');
    await network.send('Network.setCacheDisabled', { cacheDisabled: true });
    /** What draws charts, and what only that loads on this page. */
    const OF_CHARTS = /\/(?:BarsChart|with-selector)-/;
    const scripts = new Map<string, string>();
    const received = { page: 0, charts: 0 };
    network.on(
      'Network.responseReceived',
      ({ requestId, type, response }) => void (type === 'Script' && scripts.set(requestId, response.url)),
    );
    network.on('Network.loadingFinished', ({ requestId, encodedDataLength }) => {
      const url = scripts.get(requestId);
      if (url !== undefined) received[OF_CHARTS.test(url) ? 'charts' : 'page'] += encodedDataLength;
    });
    await page.goto(server.url, { waitUntil: 'networkidle2' });
    await seen(page, 'What is in force');
    await page.waitForSelector('.recharts-surface');
    await network.detach();
    expect([...scripts.values()].at(-1)).toMatch(OF_CHARTS);
    expect([...scripts.values()].some((url) => url.includes('/BarsChart-'))).toBe(true);
    expect(received.page).toBeGreaterThan(0);
    expect(received.page).toBeLessThan(120_000);
    expect(received.charts).toBeLessThan(120_000);
  });
});

describe('the register, by keyboard', () => {
  test('arrows move, Enter opens the docket, Esc closes it', async () => {
    const { page } = stage;
    await open('/all-mail?text=round+table', 'Round table on the storm gate');
    await page.focus('[role=grid]');
    await page.keyboard.press('Enter');
    await seen(page, 'is ignored, because amaro-partners.example is on the kept-out list');
    expect(page.url()).toContain('decision=');
    expect(
      await page.evaluate(() =>
        [...document.querySelectorAll('[aria-label="The five steps"] .font-head')].map((element) => element.textContent),
      ),
    ).toEqual(['Keep out', 'Take in', 'Match', 'Create', 'Share']);
    await page.keyboard.press('Escape');
    await page.waitForSelector('aside[aria-label=Decision]', { hidden: true });
    expect(await page.evaluate(() => document.activeElement?.getAttribute('role'))).toBe('grid');
  });

  test('filters live in the address bar and narrow the list', async () => {
    await open('/all-mail', 'All mail');
    const all = await total();
    await choose(stage.page, 'Outcome', /^filed$/);
    await stage.page.waitForFunction(() => location.search.includes('outcome=filed'));
    await stage.page.waitForFunction(
      (before) => Number(/([\d,]+) emails/.exec(document.body.innerText)?.[1]?.replace(',', '')) < before,
      {},
      all,
    );
    expect(await total()).toBeLessThan(all);
  });

  test('a list of no emails says what to do', async () => {
    await open('/all-mail?text=zzzznothing', 'No email fits');
  });
});

describe('finding', () => {
  test('Ctrl+K finds records and opens them by keyboard', async () => {
    const { page } = stage;
    await open('/', 'What is in force');
    await page.keyboard.down('Control');
    await page.keyboard.press('k');
    await page.keyboard.up('Control');
    await page.waitForSelector('[role=combobox]:focus');
    await page.keyboard.type('Northreach Ports');
    await seen(page, 'Northreach Ports Holding');
    await page.waitForFunction(() =>
      document.querySelector('[role=option][aria-selected=true]')?.textContent?.includes('Northreach Ports Holding'),
    );
    await page.keyboard.press('Enter');
    await page.waitForFunction(() => location.pathname.startsWith('/records/account/'));
    await seen(page, /\d+ emails? in \d+ conversations?/);
  });
});

describe('keeping out, from an email', () => {
  test('shows numbers first, takes effect, and is undone', async () => {
    const { page } = stage;
    await open('/all-mail?text=liability+limited+counsel', 'Clause 9 of the frame contract');
    await page.focus('[role=grid]');
    await page.keyboard.press('o');
    const told = await seen(page, /\d+ emails? with \S+\. \d+ emails? would be kept out/);
    const domain = /with (\S+)\./.exec(told)?.[1] ?? '';
    await press(page, `Keep out ${domain}`);
    await seen(page, `${domain} is kept out.`);
    await seen(page, 'No email fits');
    await page.locator('[data-sonner-toast][data-front=true] button ::-p-text(Undo)').click();
    await seen(page, 'Clause 9 of the frame contract');
  });
});

describe('the rulebook, as sentences', () => {
  test('a part of a sentence is changed by keyboard, and undone', async () => {
    const { page } = stage;
    await open('/take-in', 'all mail with external people');
    await page.focus('button[aria-label^="What comes in"]');
    await page.keyboard.press('Enter');
    await page.waitForSelector('[role=listbox]');
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('Enter');
    await seen(page, 'It is in the draft; nothing has taken effect.');
    await seen(page, 'only mail with known people');
    await seen(page, 'Draft: 1 change, not in force');
    await page.locator('[data-sonner-toast][data-front=true] button ::-p-text(Undo)').click();
    await seen(page, 'all mail with external people');
    await page.waitForFunction(() => !document.body.innerText.includes('Draft: 1 change'));
  });

  test('past mail is gone over on request', async () => {
    await open('/match', 'Decide past mail again');
    await press(stage.page, 'Decide past mail again …');
    await stage.page.locator('[role=dialog] button ::-p-text(emails again)').click();
    await seen(stage.page, /Past mail was decided again: \d+ emails? changed/);
  });
});

describe('import of mail', () => {
  test('a file that is dropped is read, decided and reported, message by message', async () => {
    const { page, server } = stage;
    const file = join(server.dataFolder, 'fresh.mbox');
    const mail = [
      {
        id: 'e2e-1',
        from: 'Stella Nova <stella.nova@new-company.example>',
        to: admin,
        subject: 'Hello from the new one',
        text: 'I heard of your gauges.',
      },
      { id: 'e2e-2', from: 'x@new-company.example', to: admin, subject: 'Without a date', date: 'never' },
    ];
    await writeFile(file, mbox(mail));
    await open('/mailboxes', 'Drop mail here');
    const input = await page.$('input[type=file]');
    await (input as unknown as { uploadFile: (path: string) => Promise<void> }).uploadFile(file);
    await page.waitForSelector('input[name=mailbox]');
    await page.type('input[name=mailbox]', admin);
    await press(page, 'Import this file');
    await seen(page, /Done: 2 messages read/);
    await seen(page, 'The date of the email cannot be read');
    await open('/all-mail?text=gauges+heard', 'Hello from the new one');
  });
});

describe('import of records', () => {
  test('previews, names bad lines, and imports on confirmation', async () => {
    const { page, server } = stage;
    const file = join(server.dataFolder, 'contacts.csv');
    await writeFile(file, 'name,emails\nStella Nova,stella.nova@new-company.example\nNobody,not an address\n');
    await open('/records/contact/import', 'Nothing changes until you confirm');
    const input = await page.$('input[type=file]');
    await (input as unknown as { uploadFile: (path: string) => Promise<void> }).uploadFile(file);
    await seen(page, /Would do: 1 record created, 0 updated, 0 the same, 1 line not taken/);
    await seen(page, '“not an address” is not an address');
    await press(page, 'Import 1 contacts');
    await seen(page, 'Done: 1 record created');
  });
});

describe('a rep', () => {
  test('sees a shorter line, a history, and HTML mail that loads nothing from outside', async () => {
    const { page, server } = stage;
    await press(page, 'Sign out');
    await page.waitForSelector('input[name=email]');
    await signInAs(page, server.url, rep);
    expect(
      await page.evaluate(() =>
        [...document.querySelectorAll('nav[aria-label="Steps"] a .font-head')].map((element) => element.textContent),
      ),
    ).toEqual(['My mail', 'Sorting desk', 'Records', 'Mailboxes']);
    await open('/records/account?sort=emails&descending=yes', 'Accounts');
    await page.waitForSelector('[role=grid] [role=row] a');
    await page.focus('[role=grid]');
    await page.keyboard.press('Enter');
    await page.waitForSelector('article');
    await seen(page, /\d+ emails? in \d+ conversations?/);
    expect(await page.$$eval('article', (list) => list.length)).toBeGreaterThan(0);
  });
});

test('on a narrow screen nothing runs over the edge', async () => {
  const { page } = stage;
  await page.setViewport({ width: 390, height: 844 });
  for (const path of ['/', '/all-mail', '/mailboxes', '/records/account', '/team']) {
    await page.goto(stage.server.url + path);
    await page.waitForSelector('#content h1');
    expect([path, await page.evaluate(() => document.documentElement.scrollWidth)]).toEqual([path, 390]);
  }
  await page.setViewport({ width: 1280, height: 800 });
});

test('nothing went wrong in the pages, and nothing was asked of other hosts', () => {
  expect(stage.faults).toEqual([]);
});
