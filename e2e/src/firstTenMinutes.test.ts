import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals';
import type { Stage } from './browser';
import { openStage, press, seen, signInAs } from './browser';

/** The walk of docs/users.md, step by step, by what stands on the screen. Connecting and playing the customer are walked in mailboxes.test.ts. */
let stage: Stage;
beforeAll(async () => {
  stage = await openStage({ demo: true });
}, 240_000);
afterAll(() => stage.close());
afterEach(() => expect(stage.faults.splice(0)).toEqual([]));

/** Opens a page from the navigation. */
const go = async (link: string, words: string | RegExp): Promise<string> => {
  await stage.page.locator(`nav a ::-p-text(${link})`).click();
  return seen(stage.page, words);
};
const undoLast = (): Promise<void> => stage.page.locator('[data-sonner-toast][data-front=true] button ::-p-text(Undo)').click();

describe('the first ten minutes', () => {
  test('1. sign in: the home page shows what came in, what needs attention, and what is in force', async () => {
    const { page, server } = stage;
    await signInAs(page, server.url, 'hedda.quillmere@quillmere.example');
    await seen(page, 'Mail of the last 12 weeks');
    await seen(page, /\d+ questions? at the sorting desk/);
    await seen(page, 'What is in force');
  });

  test('2. All mail: arrow keys move, Enter opens the decision, “?” explains the page and lists the keys', async () => {
    const { page } = stage;
    await go('All mail', /[\d,]+ emails/);
    await page.waitForSelector('[role=grid] [role=row]');
    await page.focus('[role=grid]');
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('Enter');
    await page.waitForFunction(() => location.search.includes('decision='));
    await page.waitForSelector('ol[aria-label="The five steps"]');
    await page.keyboard.press('Escape');
    await page.waitForFunction(() => !location.search.includes('decision='));
    await page.keyboard.press('?');
    await page.waitForSelector('[role=dialog]');
    await page.keyboard.press('Escape');
    await page.waitForFunction(() => document.querySelector('[role=dialog]') === null);
  });

  test('3. a search finds the email to eight people, and its decision explains the outcome for each', async () => {
    const { page } = stage;
    await page.locator('input[placeholder=Words]').fill('round table');
    await seen(page, 'Round table on the storm gate');
    await page.waitForFunction(() => location.search.includes('round'));
    await page.focus('[role=grid]');
    await page.keyboard.press('Enter');
    await seen(page, 'is ignored, because amaro-partners.example is on the kept-out list');
    await page.keyboard.press('Escape');
  });

  test('4. Records: an account is its history, with what one checks beside it; deals stand by stage', async () => {
    const { page } = stage;
    await go('Records', /[\d,]+ accounts/);
    await page.goto(`${stage.server.url}/records/account?sort=emails&descending=yes`);
    await page.waitForSelector('[role=grid] [role=row] a');
    await page.focus('[role=grid]');
    await page.keyboard.press('Enter');
    await page.waitForFunction(() => /^\/records\/account\/\d+/.test(location.pathname));
    await seen(page, /\d+ emails? in \d+ conversations?/);
    await page.goto(`${stage.server.url}/records/deal`);
    await press(page, 'Board');
    await seen(page, 'Site survey');
  });

  test('5. a domain is kept out: first how many emails, then the effect, then undo', async () => {
    const { page } = stage;
    await page.goto(`${stage.server.url}/all-mail?text=liability+limited+counsel`);
    await seen(page, 'Clause 9 of the frame contract');
    await page.focus('[role=grid]');
    await page.keyboard.press('o');
    const told = await seen(page, /\d+ emails? with \S+\. \d+ emails? would be kept out/);
    const domain = /with (\S+)\./.exec(told)?.[1] ?? '';
    await press(page, `Keep out ${domain}`);
    await seen(page, `${domain} is kept out.`);
    await undoLast();
    await seen(page, 'Clause 9 of the frame contract');
  });

  test('6. Mailboxes: how each is doing', async () => {
    await go('Mailboxes', 'nadia.okonjira@quillmere.example');
    await seen(stage.page, 'Connect a mailbox');
  });

  test('8. a rule is added while its effect is shown, tried on past mail, and put live', async () => {
    const { page } = stage;
    await go('Take in', 'all mail with external people');
    await press(page, 'Add a rule');
    await press(page, 'Add a condition');
    await page.locator('[role=option] ::-p-text(the subject)').click();
    await page.locator('input[aria-label^=Words]').fill('calibration');
    await seen(page, /Applies to [1-9]\d* past emails? of/);
    await press(page, 'What happens: take it in. Change');
    await page.locator('[role=option] ::-p-text(leave it to its owner)').click();
    await seen(page, /It would change [1-9]\d*/);
    await press(page, 'Add to the draft');
    await seen(page, 'Draft: 1 change, not in force');
    await press(page, 'Run a trial on past mail');
    await page.waitForFunction(() => /^\/trials\/\d+/.test(location.pathname));
    await seen(page, /Of \d+ emails, [1-9]\d* would change/);
    await press(page, 'Put live …');
    await page.locator('[role=dialog] button[type=submit]').click();
    await page.waitForFunction(() => !document.body.innerText.includes('Draft: 1 change'));
  });

  test('9. the sorting desk is worked by single keys, and an answer is undone', async () => {
    const { page } = stage;
    await go('Sorting desk', /\d+ questions? left/);
    await page.waitForSelector('section[aria-label="The question"] ol button');
    const before = await seen(page, /\d+ questions? left/);
    await page.keyboard.press('1');
    await page.waitForFunction((was) => !document.body.innerText.includes(was), {}, before);
    await seen(page, /Filed (?:a conversation|\d+ emails?|an email) under/);
    await undoLast();
    await seen(page, 'Undone');
  });
});
