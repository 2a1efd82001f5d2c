import { describe, expect, test } from '@jest/globals';
import { press, seen } from './browser';
import { stage, open, key, inDatabase, undo } from './testing/workingStage';

const gone = (words: string): Promise<unknown> => stage.page.waitForFunction((text) => !document.body.innerText.includes(text), {}, words);

describe('the sorting desk', () => {
  const left = async (): Promise<number> => Number(/(\d+) questions? left/.exec(await seen(stage.page, /\d+ questions? left/))?.[1]);
  const EMAIL = 'article[aria-label="The email"]';

  test('is worked through by single keys; an answer stands at once, and is taken back', async () => {
    const { page } = stage;
    await open('/desk', /\d+ questions? left/);
    await page.waitForSelector('section[aria-label="The question"] ol button');
    const before = await left();
    expect(before).toBeGreaterThan(2);
    await key('1');
    await seen(page, `${before - 1} question`);
    await seen(page, 'Filed a conversation under');
    const [pinned] = await inDatabase<{ does: string; reach: string }>('SELECT does, reach FROM pins ORDER BY id DESC LIMIT 1');
    expect(pinned).toEqual({ does: 'file', reach: 'conversation' });
    const waiting = `SELECT e.outcome FROM pins p JOIN emails o ON o.id = p.email_id JOIN emails e ON e.conversation_id = o.conversation_id WHERE e.outcome = 'waiting'`;
    expect(await inDatabase(waiting)).toEqual([]);
    await undo();
    await seen(page, 'Undone');
    expect(await inDatabase('SELECT FROM pins WHERE released_at IS NULL')).toEqual([]);
  });

  test('skips with K, and says none with 0', async () => {
    const { page } = stage;
    await open('/desk', /\d+ questions? left/);
    await page.waitForSelector('section[aria-label="The question"] ol button');
    await page.waitForSelector(EMAIL);
    const [before, first] = [await left(), await page.$eval(EMAIL, (element) => element.textContent)];
    await key('k');
    await page.waitForFunction(
      (selector, text) => ![text, undefined].includes(document.querySelector(selector)?.textContent ?? undefined),
      {},
      EMAIL,
      first,
    );
    expect(await left()).toBe(before);
    await key('0');
    await seen(page, `${before - 1} question`);
    await seen(page, /Took a conversation off every (?:deal|account)/);
    await undo();
    await seen(page, 'Undone');
  });
});

describe('repairs', () => {
  test('file an email in two strokes: likely records stand there with why', async () => {
    const { page } = stage;
    await open('/all-mail?outcome=filed', /[\d,]+ emails/);
    await page.waitForSelector('[role=grid] [role=row]');
    await page.focus('[role=grid]');
    await key(' ', 'f');
    await page.waitForSelector('[role=dialog] [role=option]');
    await seen(page, /takes part|is there|the company of/);
    await key('Enter');
    await seen(page, 'Filed a conversation under');
    await undo();
    await seen(page, 'Undone');
  });

  test('for a range that is chosen by keys say for how many', async () => {
    const { page } = stage;
    await open('/all-mail?outcome=filed', /[\d,]+ emails/);
    await page.waitForSelector('[role=grid] [role=row]');
    await page.focus('[role=grid]');
    await key(' ');
    await page.keyboard.down('Shift');
    await key('ArrowDown', 'ArrowDown');
    await page.keyboard.up('Shift');
    await seen(page, '3 emails chosen');
    await key('t');
    await seen(page, 'Remove 3 emails from');
    await key('Escape');
    await press(page, 'Choose none');
    await gone('3 emails chosen');
  });

  test('stand in the docket with who said it, and are taken back there', async () => {
    const { page } = stage;
    await open('/all-mail?outcome=filed', /[\d,]+ emails/);
    await page.waitForSelector('[role=grid] [role=row]');
    await page.focus('[role=grid]');
    await key('d');
    await page.waitForSelector('aside[aria-label=Decision] section[aria-label="Correct the filing"]');
    await key('t');
    await page.locator('[role=dialog] button ::-p-text(Every record)').click();
    await seen(page, 'Took a conversation off every record');
    await page.locator('ul[aria-label="Decided by hand"] button ::-p-text(Undo)').click();
    await page.waitForFunction(() => !document.querySelector('ul[aria-label="Decided by hand"]'));
    expect(await inDatabase('SELECT FROM pins WHERE released_at IS NULL')).toEqual([]);
  });
});

describe('records', () => {
  test('are changed in place, logged, and changed back', async () => {
    const { page } = stage;
    const [contact] = await inDatabase<{ id: string; title: string }>(
      `SELECT id, title FROM contacts WHERE title <> '' ORDER BY id LIMIT 1`,
    );
    await open(`/records/contact/${contact?.id ?? ''}`, 'What was changed');
    await page.locator(`button[aria-label^="Change Title"]`).click();
    await page.waitForSelector('input[aria-label=Title]');
    await page.$eval('input[aria-label=Title]', (element) => (element as HTMLInputElement).select());
    await page.keyboard.type('Keeper of the gauge');
    await key('Enter');
    await seen(page, 'Saved.');
    await seen(page, 'Keeper of the gauge');
    await press(page, 'What was changed');
    await seen(page, 'Hedda Quillmere');
    await undo();
    await page.waitForFunction(
      (text) => document.querySelector('button[aria-label^="Change Title"]')?.textContent === text,
      {},
      contact?.title ?? '',
    );
  });

  test('a wrong value says what is wrong and changes nothing', async () => {
    const { page } = stage;
    await page.locator(`button[aria-label^="Change Addresses"]`).click();
    await page.waitForSelector('input[aria-label=Addresses]');
    await page.$eval('input[aria-label=Addresses]', (element) => (element as HTMLInputElement).select());
    await page.keyboard.type('me@quillmere.example');
    await key('Enter');
    await seen(page, 'one of ours');
    await seen(page, 'Nothing was changed.');
  });

  test('deals move between stages by keyboard; board and table agree', async () => {
    const { page } = stage;
    await open('/records/deal?as=board&open=yes', /\d+ deals?/);
    await page.waitForSelector('section[aria-label=Enquiry] a');
    const name = await page.$eval('section[aria-label=Enquiry] a span', (element) => element.textContent);
    await page.focus('section[aria-label=Enquiry] a');
    await page.keyboard.down('Alt');
    await key('ArrowRight');
    await page.keyboard.up('Alt');
    await seen(page, `${name} is at Site survey`);
    await page.waitForFunction(
      (text) => document.querySelector('section[aria-label="Site survey"]')?.textContent?.includes(text),
      {},
      name,
    );
    await page.goto(`${stage.server.url}/histories/deal?stage=Site+survey&text=${encodeURIComponent(name)}`);
    await seen(page, '1 deal');
  });

  test('filters are saved under a name and opened again', async () => {
    const { page } = stage;
    await open('/records/account?unanswered=yes&sort=unanswered&descending=yes', /[\d,]+ accounts/);
    await page.locator('button ::-p-text(Saved filters)').click();
    await page.locator('::-p-aria([name="Save these filters as"][role="textbox"])').fill('Wait for us');
    await key('Enter');
    await seen(page, 'Saved as “Wait for us”');
    await open('/records/account', /[\d,]+ accounts/);
    await page.locator('button ::-p-text(Saved filters)').click();
    await page.locator('button ::-p-text(Wait for us)').click();
    await page.waitForFunction(() => location.search.includes('unanswered=yes'));
  });

  test('duplicates are merged and separated again', async () => {
    const { page } = stage;
    await open('/duplicates/contact', /pairs? of \d+ contacts may be the same/);
    const [before] = await inDatabase<{ n: string }>('SELECT count(*) AS n FROM contacts');
    await page.locator('li button ::-p-text(Merge into)').click();
    await seen(page, 'Mail, deals and rules now refer to one record');
    const [after] = await inDatabase<{ n: string }>('SELECT count(*) AS n FROM contacts');
    expect(Number(after?.n)).toBe(Number(before?.n) - 1);
    await undo();
    await seen(page, 'They are two records again');
    expect(await inDatabase('SELECT count(*) AS n FROM contacts')).toEqual([before]);
  });
});
