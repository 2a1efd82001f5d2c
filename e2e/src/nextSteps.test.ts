import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { eml, owner } from '../../server/src/testing/testServer';
import type { Stage } from './browser';
import { openStage, press, pressUndo, seen, signInAs } from './browser';
import { violations } from './testing/violations';

const REP = 'nadia.okonjira@quillmere.example';
let stage: Stage;
const inDatabase = (text: string): Promise<Record<string, unknown>[]> => owner(stage.server.ownerUrl, text);
const go = async (path: string, words: string | RegExp): Promise<void> => {
  await stage.page.goto(stage.server.url + path);
  await seen(stage.page, words);
};

beforeAll(async () => {
  stage = await openStage({ demo: true });
  await signInAs(stage.page, stage.server.url, REP);
}, 240_000);
afterAll(() => stage.close());

describe('a task', () => {
  test('is made of an email by one key, stands on its record and at home, and is done there', async () => {
    const { page } = stage;
    const [email] = await inDatabase(
      `SELECT e.id, f.record_id FROM emails e JOIN filings f ON f.email_id = e.id AND f.kind = 'account' JOIN users u ON u.id = ANY(e.owner_ids) WHERE u.email = '${REP}' AND e.direction = 'received' AND e.outcome = 'filed'
        AND NOT EXISTS (SELECT FROM emails l WHERE l.conversation_id = e.conversation_id AND l.sent_at > e.sent_at) ORDER BY e.sent_at DESC LIMIT 1`,
    );
    await go(`/all-mail?decision=${String(email?.id)}`, 'To do');
    await page.waitForSelector('aside section[aria-label="To do"] button');
    await page.keyboard.press('d');
    await seen(page, 'It is a task for today');
    const [task] = await inDatabase('SELECT id, text FROM tasks');
    await go(`/records/account/${String(email?.record_id)}`, String(task?.text));
    await go('/', String(task?.text));
    await go('/tasks', 'Today');
    expect(await violations(page)).toEqual([]);
    await page.locator(`input[aria-label="Done: ${String(task?.text).replaceAll('"', '\\"')}"]`).click();
    await seen(page, 'Nothing to do');
    expect(await inDatabase('SELECT FROM tasks WHERE done_at IS NOT NULL')).toHaveLength(1);
    await pressUndo(page);
    await page.waitForSelector('input[aria-label^="Done: "]');
    expect(await inDatabase('SELECT FROM tasks WHERE done_at IS NOT NULL')).toHaveLength(0);
  });

  test('is written down by keyboard and mouse, comes back, and is moved with another', async () => {
    const { page } = stage;
    await go('/tasks', 'New task');
    await press(page, 'New task');
    await page.waitForSelector('[role=dialog] input');
    await page.keyboard.type('Report to the harbour');
    await page.keyboard.press('Enter');
    await seen(page, 'The task is saved');
    const boxes = await page.$$('input[aria-label^="Select "]:not([aria-label^="Select all"])');
    for (const box of boxes) await box.click();
    await seen(page, '2 tasks chosen');
    await page.locator('[role=region] button ::-p-text(tomorrow)').click();
    await seen(page, '2 tasks changed');
    await seen(page, 'Next 7 days');
    expect(await inDatabase(`SELECT FROM tasks WHERE due_day::date = current_date + 1`)).toHaveLength(2);
  });
});

describe('an email that is a file', () => {
  test('is put on a record, filed there, and taken off again', async () => {
    const { page } = stage;
    const [account] = await inDatabase(
      `SELECT f.record_id AS id FROM filings f WHERE f.kind = 'account' GROUP BY 1 ORDER BY count(*) DESC LIMIT 1`,
    );
    const folder = mkdtempSync(join(tmpdir(), 'fulvet-file-'));
    const file = join(folder, 'saved.eml');
    writeFileSync(
      file,
      eml({
        id: 'saved@marsh.example',
        from: 'Ola <ola@marsh.example>',
        to: REP,
        subject: 'Saved elsewhere',
        date: new Date().toUTCString(),
      }),
    );
    await go(`/records/account/${String(account?.id)}`, 'Add emails from files');
    const input = await page.waitForSelector('input[aria-label="Email files"]');
    await input?.uploadFile(file);
    await seen(page, 'Saved elsewhere');
    await pressUndo(page);
    await seen(page, 'Undone');
    await page.waitForFunction(() => !document.querySelector('section[aria-label=History]')?.textContent.includes('Saved elsewhere'));
    writeFileSync(file, 'no email at all');
    await input?.uploadFile(file);
    await seen(page, /no email in these files|could not be read/);
    rmSync(folder, { recursive: true });
  });
});
