import { describe, expect, test } from '@jest/globals';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { until } from '../../server/src/testing/mailboxTools';
import { routeTo } from '../../server/src/testing/routeTo';
import { owner } from '../../server/src/testing/testServer';
import { press, seen } from './browser';
import { violations } from './testing/violations';
import { contactId, crew, good, hurry, reach, received, stage } from './testing/writerStage';

describe('a rep writes without the mouse', () => {
  test('from a record: people are offered, the filing is said before, and the email is on the history at once', async () => {
    const { page, server } = stage;
    await page.goto(`${server.url}/records/contact/${contactId}`);
    await reach('::-p-aria(Write email)');
    await page.keyboard.press('Enter');
    await page.waitForSelector('form [aria-label=Text]');
    await reach('form input[aria-label=To]');
    await page.keyboard.type('tov');
    await seen(page, 'tove@morland.example');
    await page.keyboard.press('Enter');
    await reach('form input[id^=subject]');
    await page.keyboard.type('A second gauge');
    await page.keyboard.press('Tab');
    await reach('form [aria-label=Text]');
    await page.keyboard.type('Dear Ida, it is attached.');
    await seen(page, 'It will be filed under Ida Brandt, Tove Lund.');
    await seen(page, 'tove@morland.example is at morland.example, the others at harbour.example.');
    await seen(page, 'Your text mentions a file, and none is attached.');
    expect(await violations(page)).toEqual([]);
    await page.keyboard.down('Control');
    await page.keyboard.press('Enter');
    await page.keyboard.up('Control');
    await seen(page, 'Your email is sent in 10 seconds.');
    await hurry();
    const mails = await received('A second gauge');
    expect(mails.map(({ to }) => to).sort()).toEqual(['ida@harbour.example', 'tove@morland.example']);
    expect(mails[0]?.text).toContain('Dear Ida, it is attached.');
    await seen(page, /A second gauge[\s\S]*Dear Ida, it is attached/);
  });

  test('puts kept texts in, filled for the recipient, by name and by shortcut; takes them back in one step', async () => {
    const { page, server } = stage;
    const keep = (body: object) => server.call(routeTo('createTemplate'), { token: crew.tokens.rep, body });
    await keep({
      kind: 'template',
      name: 'Visit',
      subject: 'Visit, {{person.lastName}}',
      html: '<p>Dear {{person.firstName}},</p><p>For {{deal.code}}.</p>',
    });
    await keep({ kind: 'block', name: 'Terms', shortcut: 'terms', html: '<p>Four weeks.</p>' });
    await page.goto(`${server.url}/records/contact/${contactId}`);
    await reach('::-p-aria(Write email)');
    await page.keyboard.press('Enter');
    await page.waitForSelector('form [aria-label=Text]');
    await reach('::-p-aria([name="Insert text …"][role="button"])');
    await page.keyboard.press('Enter');
    await page.waitForSelector('[role=dialog] [role=combobox]:focus');
    await page.keyboard.type('visit');
    await page.waitForFunction(() => document.querySelectorAll('[role=dialog] [role=option]').length === 1);
    await page.keyboard.press('Enter');
    await seen(page, /Dear Ida,[\s\S]*For \{\{deal\.code\}\}\./);
    await seen(page, 'Fill these fields before you send: Deal: code.');
    expect(await page.$eval('form input[id^=subject]', (input) => (input as HTMLInputElement).value)).toBe('Visit, Brandt');
    await press(page, 'Send email');
    await seen(page, 'Fill the marked fields first, or delete them: deal.code.');
    // In place of the field, at the end of the line.
    await reach('form [aria-label=Text]');
    await page.keyboard.down('Control');
    await page.keyboard.press('End');
    await page.keyboard.up('Control');
    for (let back = 0; back < '{{deal.code}}.'.length; back += 1) await page.keyboard.press('Backspace');
    await page.keyboard.type('quay 4. ;terms ');
    await seen(page, /For quay 4\.[\s\S]*Four weeks\./);
    await page.keyboard.down('Control');
    await page.keyboard.press('z');
    await page.keyboard.up('Control');
    await seen(page, /For quay 4\. ;terms/);
    await page.keyboard.type(' ');
    await seen(page, 'Four weeks.');
    expect(await violations(page)).toEqual([]);
    await press(page, 'Send email');
    await seen(page, 'Your email is sent in 10 seconds.');
    await hurry();
    const [mail] = await received('Visit, Brandt');
    expect(mail?.text.replace(/\s+/g, ' ')).toContain('Dear Ida, For quay 4. Four weeks.');
  });

  test('sends documents along: attached, and as a link that ends when it is withdrawn', async () => {
    const { page, server } = stage;
    good(await server.call(routeTo('setLinkAddress'), { token: crew.tokens.admin, body: { address: server.url } }));
    for (const title of ['Price list', 'Terms']) {
      const { id } = good(await server.call(routeTo('createDocument'), { token: crew.tokens.rep, body: { title, topic: 'Offers' } }));
      const { method, path } = routeTo('addDocumentVersion', { id });
      good(
        await server.call(
          { method, path: `${path}?name=${encodeURIComponent(title)}.pdf` },
          { token: crew.tokens.rep, bytes: title, headers: { 'content-type': 'application/octet-stream' } },
        ),
      );
    }
    await page.goto(`${server.url}/records/contact/${contactId}`);
    await reach('::-p-aria(Write email)');
    await page.keyboard.press('Enter');
    await page.waitForSelector('form [aria-label=Text]');
    await page.type('form input[id^=subject]', 'With documents');
    await press(page, 'Documents …');
    await page.waitForSelector('[role=dialog] input[type=checkbox]');
    // Before a notice comes and goes behind the dialog: while it fades, its colours are no colours.
    expect(await violations(page)).toEqual([]);
    await page.click('::-p-aria(All of Offers)');
    await press(page, 'Attach 2 files');
    await seen(page, '2 documents attached.');
    await press(page, 'Documents …');
    await page.waitForSelector('[role=dialog] input[type=checkbox]');
    await page.click('[role=dialog] ::-p-text(Price list)');
    await press(page, 'Insert link');
    await page.waitForSelector('form [aria-label=Text] a[href*="/d/"]');
    await press(page, 'Send email');
    await seen(page, 'Your email is sent in 10 seconds.');
    await hurry();
    const [mail] = await received('With documents');
    const [, link = ''] = /Price list \((https?:\/\/\S+\/d\/[\w-]{43})\)/.exec(mail?.text.replace(/=\r?\n/g, '') ?? '') ?? [];
    expect(await (await fetch(link)).text()).toBe('Price list');
    await page.goto(`${server.url}/documents`);
    await page.locator('main ::-p-text(Price list)').click();
    await press(page, 'Withdraw the link for Ida Brandt');
    await seen(page, 'withdrawn');
    expect((await fetch(link)).status).toBe(410);
    expect(await violations(page)).toEqual([]);
  });

  test('a draft outlives loading the page and signing in again, and a second one opens beside it', async () => {
    const { page, server } = stage;
    await page.goto(`${server.url}/all-mail?text=Gauge+at+quay+4`);
    await page.waitForSelector('[role=grid] [role=row]');
    await page.focus('[role=grid]');
    await page.keyboard.press('Enter');
    await reach('::-p-aria(Answer)');
    await page.keyboard.press('Enter');
    await page.waitForFunction(() => document.activeElement?.getAttribute('aria-label') === 'Text');
    await page.keyboard.type('Next week.');
    await seen(page, /Draft saved/);
    await page.goto(`${server.url}/outgoing`);
    await seen(page, 'Next week.');
    await press(page, 'Write email');
    await page.waitForFunction(() => document.querySelectorAll('[aria-label="Emails that you write"] [aria-expanded]').length === 2);
    await seen(page, 'New email');
  });

  test('an answer is taken back, sent, and stands in the conversation', async () => {
    const { page, server } = stage;
    await page.goto(`${server.url}/outgoing`);
    await page
      .locator('[aria-label="Emails that you write"] button[aria-expanded]:not([aria-label])')
      .filter((tab) => tab.textContent === 'Re: Gauge at quay 4')
      .click();
    await seen(page, 'Next week.');
    await press(page, 'Send email');
    await seen(page, 'Your email is sent in 10 seconds.');
    await seen(page, 'Waits for its time');
    await page.locator('::-p-aria([name="Take back"][role="button"])').click();
    await seen(page, 'Your email is a draft again.');
    await seen(page, 'Next week.');
    await press(page, 'Send email');
    await hurry();
    const [mail, ...more] = await received('Re: Gauge at quay 4');
    expect(more).toEqual([]);
    expect(mail?.text).toMatch(/Next week\.[\s\S]*> When\?/);
    const rows = await until(
      () =>
        owner(
          server.ownerUrl,
          `SELECT count(*)::int AS emails FROM emails WHERE conversation_id = (SELECT conversation_id FROM emails WHERE message_id = 'q@harbour.example')`,
        ),
      ([row]) => row?.emails === 2,
    );
    expect(rows).toEqual([{ emails: 2 }]);
  });
});

describe('an email with a picture', () => {
  const PNG = 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==';

  test('shows it in the text, after a reload, too, and takes it along', async () => {
    const { page, server } = stage;
    const folder = mkdtempSync(join(tmpdir(), 'fulvet-picture-'));
    writeFileSync(join(folder, 'gauge.png'), Buffer.from(PNG, 'base64'));
    await page.goto(`${server.url}/records/contact/${contactId}`);
    await press(page, 'Write email');
    await page.waitForSelector('form [aria-label=Text]');
    await reach('form input[id^=subject]');
    await page.keyboard.type('Gauge in a picture');
    await reach('form [aria-label=Text]');
    await page.keyboard.type('Here it is: ');
    const input = await page.waitForSelector('form input[type=file][aria-label="Insert a picture"]');
    await input?.uploadFile(join(folder, 'gauge.png'));
    rmSync(folder, { recursive: true });
    const isShown = (): Promise<unknown> =>
      page.waitForFunction(
        () => (document.querySelector('form [aria-label=Text] img[alt="gauge.png"]') as HTMLImageElement | null)?.naturalWidth === 1,
      );
    await isShown();
    await seen(page, /Draft saved/);
    // What is pasted with a page brings no pictures of that page.
    await page.evaluate(() => {
      const data = new DataTransfer();
      data.setData('text/html', '<p>pasted<img src="https://spy.example/p.png"></p>');
      document
        .querySelector('form [aria-label=Text]')
        ?.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));
    });
    await seen(page, 'pasted');
    expect(await page.$$('form [aria-label=Text] img')).toHaveLength(1);
    await seen(page, /Draft saved/);
    await page.reload();
    await isShown();
    await page.waitForSelector('main h2');
    expect(await violations(page)).toEqual([]);
    await press(page, 'Send email');
    await seen(page, 'Your email is sent in 10 seconds.');
    await hurry();
    const [mail] = await received('Gauge in a picture');
    expect(mail?.source).toContain('multipart/related');
    expect(mail?.source).not.toContain('spy.example');
    expect(mail?.text).toContain('Here it is: [gauge.png]');
  });
});

describe('an email whose openings are counted', () => {
  test('says to its recipient that they are, and on its record what was likely a person', async () => {
    const { page, server } = stage;
    const admin = { token: crew.tokens.admin };
    const rights = { role: 'rep', teamIds: [] };
    good(await server.call(routeTo('setLinkAddress'), { ...admin, body: { address: server.url } }));
    const notice = 'We see whether this email was opened.';
    const measuring = { isOn: true, notice, keepDays: 30 };
    const writingRights = { send: rights, share: rights, bulk: rights, measure: rights };
    good(await server.call(routeTo('putWorkspace'), { ...admin, body: { measuring, writingRights } }));
    const [mailbox] = await owner(server.ownerUrl, 'SELECT id::int FROM mailboxes');
    const id = Number(mailbox?.id);
    good(await server.call(routeTo('putMailboxSettings', { id }), { token: crew.tokens.rep, body: { measures: true } }));
    await page.goto(`${server.url}/mailboxes/${id}`);
    await seen(page, /Openings of emails that are sent from it may be counted/);
    await page.goto(`${server.url}/records/contact/${contactId}`);
    await press(page, 'Write email');
    await page.waitForSelector('form [aria-label=Text]');
    await reach('form input[id^=subject]');
    await page.keyboard.type('Counted here');
    await reach('form [aria-label=Text]');
    await page.keyboard.type('Dear Ida');
    await page.locator('::-p-aria(Count whether it is opened)').click();
    await seen(page, 'A notice below the text says so to its recipient.');
    await seen(page, /Draft saved/);
    await press(page, 'Send email');
    await hurry();
    const [mail] = await received('Counted here');
    expect(mail?.text).toContain(notice);
    await seen(page, /Counted here[\s\S]*Not known whether it was opened\./);
    const picture = /src=3D"([^"]*\/o\/[^"]{43})"/.exec((mail?.source ?? '').replace(/=\r?\n/g, ''))?.[1] ?? '';
    await owner(server.ownerUrl, `UPDATE measures SET sent_at = now() - interval '1 hour'`);
    expect(
      (
        await fetch(picture, {
          headers: {
            'user-agent': await page
              .browser()
              .userAgent()
              .then((agent) => agent.replace('Headless', '')),
          },
        })
      ).status,
    ).toBe(200);
    await until(
      () => owner(server.ownerUrl, 'SELECT class FROM visits'),
      (rows) => rows.length === 1,
    );
    await page.reload();
    await seen(page, /Probably opened on /);
    expect(await violations(page)).toEqual([]);
  });
});
