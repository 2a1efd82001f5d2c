import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Stage } from './browser';
import { openStage, press, seen, signInAs } from './browser';

const admin = 'hedda.quillmere@quillmere.example';
let stage: Stage;

beforeAll(async () => {
  stage = await openStage({ demo: true });
  await signInAs(stage.page, stage.server.url, admin);
}, 240_000);
afterAll(() => stage.close());

const open = async (path: string, words: string | RegExp): Promise<void> => {
  await stage.page.goto(stage.server.url + path);
  await seen(stage.page, words);
};
/** Opens an underlined part of a sentence and chooses what it says. */
const choose = async (part: string, option: string): Promise<void> => {
  await press(stage.page, part);
  await stage.page.locator(`[role=option] ::-p-text(${option})`).click();
};
const rules = (): Promise<string[]> =>
  stage.page.$$eval('section[aria-label=Rules] ol > li button.text-left', (all) => all.map((element) => element.textContent));

describe('a rule is written as a sentence, tried out and put live', () => {
  test('an address list takes what is pasted and says what it could not read', async () => {
    const { page } = stage;
    await open('/address-lists', 'No list of your own yet');
    await page.type('form[aria-label="New list"] input[name=name]', 'Advertising');
    await press(page, 'Create the list');
    await seen(page, 'used by no rule yet');
    await page.type('textarea', '“Sensor Parts” <offers@sensor-parts.example>, rubbish');
    await press(page, 'Add to the list');
    await seen(page, '1 entry added');
    await seen(page, '1 part could not be read');
    await seen(page, 'offers@sensor-parts.example');
  });

  test('while it is edited, its count of past emails and examples follow', async () => {
    const { page } = stage;
    await open('/take-in', 'No rules yet');
    await press(page, 'Add a rule');
    await seen(page, 'A rule needs at least one condition');
    await choose('Add a condition', 'an external person …');
    const before = await seen(page, /[\d,]+ past emails? of/);
    await choose('What of them: is unknown. Change', 'is a contact');
    await page.waitForFunction((was) => !document.body.innerText.includes(was), {}, before);
    await choose('Add a condition', 'the subject …');
    await page.waitForSelector('input[aria-label^=Words]');
    await page.locator('input[aria-label^=Words]').fill('zzz no such word');
    await seen(page, '0 past emails of');
    await page.locator('input[aria-label^=Words]').fill('calibration, offer');
    await page.waitForFunction(() => /[1-9]\d* past emails? of/.test(document.body.innerText));
    await choose('What happens: take it in. Change', 'leave it to its owner');
    await seen(page, /It would change [1-9]\d* of (?:the newest [\d,]+ of these emails|these [\d,]+ emails|that email)/);
    await page.waitForSelector('ul[aria-label="The newest that would change"] li');
    await page.type('form[aria-label="New rule"] input[name=name]', 'No offers');
    await press(page, 'Add to the draft');
    await seen(page, 'Draft: 1 change, not in force');
    await page.waitForSelector('section[aria-label=Rules] ol > li button.text-left');
    expect(await rules()).toEqual([
      'When any external participant is a contact and the subject says “calibration” or “offer”, leave it to its owner.',
    ]);
  });

  test('a wrong pattern says so and cannot be kept', async () => {
    const { page } = stage;
    await press(page, 'Add a rule');
    await choose('Add a condition', 'an external person …');
    await choose('What of them: is unknown. Change', 'has an address like');
    await page.locator('input[aria-label=Pattern]').fill('(a');
    await seen(page, 'The pattern “(a” cannot be read');
    expect(await page.$eval('button[type=submit]', (element) => (element as HTMLButtonElement).disabled)).toBe(true);
    await press(page, 'Cancel');
  });

  test('rules are reordered by keyboard, and that can be undone', async () => {
    const { page } = stage;
    await press(page, 'Add a rule');
    await choose('Add a condition', 'an external person …');
    await press(page, 'Add to the draft');
    await seen(page, 'Draft: 2 changes');
    const first = await rules();
    await page.focus('section[aria-label=Rules] ol > li:nth-child(2)');
    await page.keyboard.down('Alt');
    await page.keyboard.press('ArrowUp');
    await page.keyboard.up('Alt');
    await page.waitForFunction(
      (text) => document.querySelector('section[aria-label=Rules] ol > li button.text-left')?.textContent === text,
      {},
      first[1] ?? '',
    );
    expect(await rules()).toEqual([...first].reverse());
    await seen(page, 'Rule moved.');
    // The newest notice stands last.
    await page.locator('[data-sonner-toast][data-front=true] button[data-button]').click();
    await page.waitForFunction(
      (text) => document.querySelector('section[aria-label=Rules] ol > li button.text-left')?.textContent === text,
      {},
      first[0] ?? '',
    );
  });

  test('a trial says in numbers what the draft would change, and opens the emails with both dockets', async () => {
    const { page } = stage;
    await page.locator('section[aria-label=Rules] ol > li:nth-child(2) button::-p-text(Remove)').click();
    await seen(page, 'Draft: 1 change');
    await press(page, 'Run a trial on past mail');
    const text = await seen(page, /Of \d+ emails, [1-9]\d* would change/);
    const changed = Number(/, (\d+) would/.exec(text)?.[1]);
    await page.locator('table button:not(:disabled)').click();
    await seen(page, 'behind that number');
    expect(page.url()).toContain('before=');
    // The emails of the number have taken the place of all.
    await page.waitForSelector('section[aria-label="Emails behind the numbers"][aria-busy=false] li button');
    await page.focus('section[aria-label="Emails behind the numbers"] li button');
    await page.keyboard.press('Enter');
    await seen(page, 'differs here');
    await seen(page, 'The rule “No offers” applies');
    await page.focus('section[aria-label="Emails behind the numbers"] h2 + button');
    await page.keyboard.press('Enter');
    await seen(page, `${changed} emails that would change`);
  });

  test('put live with past mail, it does what the trial said', async () => {
    const { page } = stage;
    const text = await seen(page, /Of \d+ emails, \d+ would change/);
    const changed = Number(/, (\d+) would/.exec(text)?.[1]);
    await open('/take-in', 'Draft: 1 change');
    await press(page, 'Put live …');
    await seen(page, `of \\d+ emails, ${changed} would change`.replace(/\\d\+/, String(Number(/Of (\d+)/.exec(text)?.[1]))));
    await page.locator('input[name=which]:not(:checked)').click();
    await seen(page, /Put live for everyone, and decide \d+ past emails again/);
    await page.locator('[role=dialog] button[type=submit]').click();
    await seen(page, 'past mail is being decided again');
    await page.waitForFunction(() => !document.body.innerText.includes('Draft: 1 change'));
    await seen(page, /Past mail was decided again, [1-9]\d* emails changed/);
    await open('/trials', 'would change');
    await press(page, 'Try the draft out');
    await seen(page, /Of \d+ emails, 0 would change/);
  });

  test('the run is undone as one step, the rulebook with it', async () => {
    const { page } = stage;
    await open('/take-in', /Past mail was decided again, [1-9]\d* emails changed/);
    expect(await rules()).toHaveLength(1);
    await press(page, 'Undo …');
    await page.locator('button ::-p-text(Undo, and restore)').click();
    await seen(page, /[1-9]\d* emails are as before/);
    await page.waitForFunction(() => document.querySelectorAll('section[aria-label=Rules] ol > li').length === 0);
  });

  test('a draft is put live for a pilot, its figures stand beside the others’, and it is ended', async () => {
    const { page } = stage;
    await open('/share', 'filed is seen by');
    await press(page, 'Add a rule');
    await choose('Add a condition', 'an external person …');
    await press(page, 'Add to the draft');
    await seen(page, 'Draft: 1 change');
    await press(page, 'Put live …');
    await page.locator('input[name=whom]:not(:checked)').click();
    expect(await page.$eval('[role=dialog] button[type=submit]', (element) => (element as HTMLButtonElement).disabled)).toBe(true);
    await page.locator('[role=dialog] li label ::-p-text(nadia.okonjira)').click();
    await page.locator('input[name=which]:not(:checked)').click();
    await seen(page, /Start the pilot for 1 mailbox, and decide \d+ past emails again/);
    await page.locator('[role=dialog] button[type=submit]').click();
    await seen(page, /Pilot: version \d+ is in force for 1 mailbox/);
    await page.waitForSelector('[aria-label="The pilot beside other mail"]');
    await press(page, 'End the pilot …');
    await page.locator('[role=dialog] button[type=submit]').click();
    await seen(page, 'The pilot has ended');
    await page.waitForFunction(() => document.querySelector('section[aria-label="The pilot"]') === null);
    await press(page, 'Discard …');
    await press(page, 'Discard draft');
    await page.waitForFunction(() => document.querySelector('section[aria-label="The draft"]') === null);
  });

  test('what past mail suggests goes into the draft with one click, its effect beside it', async () => {
    const { page } = stage;
    await open('/tuning', 'would change');
    const text = await page.$eval('section[aria-label=Suggestions] li', (element) => (element as HTMLElement).innerText);
    expect(text).toMatch(/\d+ emails? would change/);
    await press(page, 'Add to the draft');
    await seen(page, 'Draft: 1 change, not in force');
    await seen(page, 'Unfiled or waiting');
    expect(await page.$$eval('[role=table][aria-label="Domains by volume"] [role=row]', (rows) => rows.length)).toBeGreaterThan(3);
    await press(page, 'Discard …');
    await press(page, 'Discard draft');
    await page.waitForFunction(() => document.querySelector('section[aria-label="The draft"]') === null);
  });

  test('the docket says why an email is not under another record, and what would change it', async () => {
    const { page } = stage;
    await open('/all-mail?text=round+table', 'Round table on the storm gate');
    await page.focus('[role=grid]');
    await page.keyboard.press('Enter');
    await press(page, 'Why not under …?');
    await page.keyboard.type('Ebbing Vale');
    await page.waitForSelector(
      '[role=dialog] [role=option][aria-selected=true], [data-radix-popper-content-wrapper] [role=option][aria-selected=true]',
    );
    await page.keyboard.press('Enter');
    await seen(page, 'None of the people who take part is with');
    await press(page, 'What would change it');
    await seen(page, 'Rules that almost applied');
  });

  test('from an email: make a rule of this, prefilled', async () => {
    const { page } = stage;
    await open('/all-mail?text=round+table', 'Round table on the storm gate');
    await page.focus('[role=grid]');
    await page.keyboard.press('Enter');
    await press(page, 'Create a rule …');
    await page.locator('[role=option] ::-p-text(Match)').click();
    await seen(page, 'Rules, in order');
    const domain = await page.$eval('input[aria-label=Domain]', (element) => (element as HTMLInputElement).value);
    expect(domain).toMatch(/\.example$/);
  });
});
