import { routeTo } from '../../server/src/testing/routeTo';
import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals';
import { until } from '../../server/src/testing/mailboxTools';
import { signIn } from '../../server/src/testing/testServer';
import type { Stage } from './browser';
import { choose, openStage, press, seen, signInAs } from './browser';

const ADMIN = 'hedda.quillmere@quillmere.example';
const REP = 'nadia.okonjira@quillmere.example';
let stage: Stage;

beforeAll(async () => {
  stage = await openStage({ demo: true });
  await signInAs(stage.page, stage.server.url, ADMIN);
}, 240_000);
afterAll(() => stage.close());
afterEach(() => expect(stage.faults.splice(0)).toEqual([]));

const open = async (path: string, words: string | RegExp): Promise<string> => {
  await stage.page.goto(stage.server.url + path);
  return seen(stage.page, words);
};
const key = async (...keys: string[]): Promise<void> => {
  for (const value of keys) await stage.page.keyboard.press(value as never);
};
const inDatabase = async <T>(statement: string): Promise<T[]> =>
  (await stage.server.services.database.workerPool.query(statement)).rows as T[];
const gone = (words: string): Promise<unknown> => stage.page.waitForFunction((text) => !document.body.innerText.includes(text), {}, words);
/** As someone else, in a window of their own: nothing that is still on its way can bring the first one's session back. */
async function signInAnew(email: string): Promise<void> {
  const context = await stage.browser.createBrowserContext();
  stage.page = await context.newPage();
  await signInAs(stage.page, stage.server.url, email);
}

/** The newest notice stands last. */
const undo = (): Promise<void> => stage.page.locator('[data-sonner-toast][data-front=true] button ::-p-text(Undo)').click();

/** Has a message come into a mailbox by import, and waits until it is decided. */
async function receive(mailbox: string, source: string): Promise<void> {
  const { server } = stage;
  const { cookie, csrf } = await signIn(server, mailbox, 'tide-gauge-demo');
  const headers = { cookie, 'x-fulvet-csrf': csrf };
  const { json } = await server.call(routeTo('createImport'), { headers, body: { mailbox } });
  await server.call(routeTo('putImportFile', { id: json.id, name: 'one.eml' }), { headers, bytes: source });
  await server.call(routeTo('startImport', { id: json.id }), { headers });
  await until(
    async () => (await server.call(routeTo('getImport', { id: json.id }), { headers })).json.state as string,
    (state) => state === 'done',
  );
}

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
    await seen(page, 'Take 3 emails off');
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
    await page.waitForSelector('aside[aria-label=Decision] section[aria-label="Put it right"]');
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
    await seen(page, '1 deals');
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

  test('duplicates are merged and parted again', async () => {
    const { page } = stage;
    await open('/duplicates/contact', /pairs? of \d+ contacts may be one/);
    const [before] = await inDatabase<{ n: string }>('SELECT count(*) AS n FROM contacts');
    await page.locator('li button ::-p-text(Merge into)').click();
    await seen(page, 'Mail, deals and rules name one record now');
    const [after] = await inDatabase<{ n: string }>('SELECT count(*) AS n FROM contacts');
    expect(Number(after?.n)).toBe(Number(before?.n) - 1);
    await undo();
    await seen(page, 'They are two records again');
    expect(await inDatabase('SELECT count(*) AS n FROM contacts')).toEqual([before]);
  });
});

describe('a workspace’s own', () => {
  test('field is added, filled in place, and stands in the table', async () => {
    const { page } = stage;
    await open('/record-setup/account', 'Own fields of accounts');
    await press(page, 'Add a field');
    await page.waitForSelector('li:last-child input[aria-label="Name of the field"]');
    await page.type('li:last-child input[aria-label="Name of the field"]', 'Berths');
    await choose(page, 'Type of Berths', /^Number$/);
    await press(page, 'Save the fields');
    await seen(page, 'The fields are saved');
    const [account] = await inDatabase<{ id: string }>('SELECT id FROM accounts ORDER BY lower(name) LIMIT 1');
    await open(`/records/account/${account?.id ?? ''}`, 'Berths');
    await page.locator('button[aria-label="Change Berths"]').click();
    await page.waitForSelector('input[aria-label=Berths]');
    await page.keyboard.type('17');
    await key('Enter');
    await seen(page, 'Saved.');
    await open('/records/account?sort=own:berths&descending=yes', /[\d,]+ accounts/);
    await page.waitForFunction(() => document.querySelector('[role=grid] [role=row]:has(a)')?.textContent?.includes('17'));
  });

  test('records of one owner are handed over as one step, and back', async () => {
    const { page } = stage;
    const [busiest] = await inDatabase<{ id: string; n: string }>(
      'SELECT owner_id AS id, count(*) AS n FROM accounts GROUP BY 1 ORDER BY 2 DESC, 1 LIMIT 1',
    );
    await open(`/records/account?owner=${busiest?.id ?? ''}`, `${busiest?.n ?? ''} accounts`);
    await page.locator('button ::-p-text(’s to …)').click();
    await page.locator('[role=option] ::-p-text(Matteo Brandvold), [role=option] ::-p-text(Nadia Okonjira)').click();
    await seen(page, new RegExp(`owns ${busiest?.n ?? ''} accounts? more`));
    await seen(page, 'No account fits');
    await undo();
    await seen(page, `${busiest?.n ?? ''} accounts`);
  });

  test('new record with a name that is taken says so and keeps what was typed', async () => {
    const { page } = stage;
    const [account] = await inDatabase<{ name: string }>('SELECT name FROM accounts ORDER BY id LIMIT 1');
    await open('/records/account', /[\d,]+ accounts/);
    await page.locator('button ::-p-text(New …)').click();
    await page.waitForSelector('[role=dialog] input');
    await page.type('[role=dialog] input', account?.name ?? '');
    await key('Enter');
    await seen(page, 'already. Give this one another name, or merge the two.');
    expect(await page.$eval('[role=dialog] input', (element) => (element as HTMLInputElement).value)).toBe(account?.name);
    await key('Escape');
  });
});

describe('a history', () => {
  test('is narrowed by words and by a day, which the address bar holds', async () => {
    const { page } = stage;
    const [busy] = await inDatabase<{ id: string }>(
      `SELECT record_id AS id FROM filings WHERE kind = 'account' GROUP BY 1 ORDER BY count(*) DESC, 1 LIMIT 1`,
    );
    const whole = await open(`/records/account/${busy?.id ?? ''}`, /\d+ emails in \d+ conversations/);
    await page.type('input[aria-label=Words]', 'gauge');
    await page.waitForFunction(() => location.search.includes('text=gauge'));
    await page.waitForFunction((text) => !document.body.innerText.includes(text), {}, whole);
    await page.goto(`${stage.server.url}/histories/account/${busy?.id ?? ''}?until=2001-01-01`);
    await seen(page, 'No email fits');
  });
});

describe('on a phone’s width', () => {
  test('My mail opens by a Message-ID, says whom it concerns, and adds an unknown person by one press', async () => {
    const unknown = { message_id: 'first-word@cove-marina.example', address: 'mara.tull@cove-marina.example' };
    await receive(
      REP,
      `From: Mara Tull <${unknown.address}>\r\nTo: ${REP}\r\nSubject: A gauge for the cove\r\nDate: ${new Date().toUTCString()}\r\nMessage-ID: <${unknown.message_id}>\r\n\r\nHello\r\n`,
    );
    await signInAnew(REP);
    const { page } = stage;
    await page.setViewport({ width: 360, height: 740 });
    await open(`/my-mail?message=${encodeURIComponent(`<${unknown.message_id}>`)}`, 'unknown');
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(360);
    await page.locator('section[aria-label="External people in this email"] button ::-p-text(Add)').click();
    await seen(page, 'Filed an email under the contact');
    expect(await inDatabase(`SELECT kind FROM person_addresses WHERE address = '${unknown.address}'`)).toEqual([{ kind: 'contact' }]);
    await open('/my-mail?message=nothing%40nowhere.example', 'no email of this Message-ID');
  });
});
