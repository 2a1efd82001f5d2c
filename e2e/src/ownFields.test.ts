import { routeTo } from '../../server/src/testing/routeTo';
import { describe, expect, test } from '@jest/globals';
import { until } from '../../server/src/testing/mailboxTools';
import { signIn } from '../../server/src/testing/testServer';
import { choose, press, seen, signInAs } from './browser';
import { stage, open, key, inDatabase, undo } from './testing/workingStage';

const REP = 'nadia.okonjira@quillmere.example';

/** As someone else, in a window of their own: nothing that is still on its way can bring the first one's session back. */
async function signInAnew(email: string): Promise<void> {
  const context = await stage.browser.createBrowserContext();
  stage.page = await context.newPage();
  await signInAs(stage.page, stage.server.url, email);
}

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

  test('kind of records is switched on by one click, and a case begins with an email, by keyboard', async () => {
    const { page } = stage;
    await open('/record-setup/own?of=new', 'Switch on cases');
    await press(page, 'Switch on cases');
    await seen(page, 'Own fields of cases');
    const [email] = await inDatabase<{ id: string }>(
      `SELECT e.id FROM emails e JOIN filings f ON f.email_id = e.id AND f.kind = 'contact' WHERE e.direction = 'received' AND e.outcome = 'filed' ORDER BY e.sent_at DESC LIMIT 1`,
    );
    await open(`/all-mail?decision=${email?.id ?? ''}`, 'Create records');
    await key('n');
    await seen(page, 'Another record begins');
    await choose(page, 'Another record begins', /^Case$/);
    await press(page, 'Create a case');
    await page.waitForFunction(() =>
      [...document.querySelectorAll('aside a, section a')].some((link) => link.textContent?.startsWith('CASE-1 ')),
    );
    await open('/records/own?of=case', 'CASE-1');
    await seen(page, '1 case');
    await page.locator('[role=row] a').click();
    await seen(page, 'People on it');
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
