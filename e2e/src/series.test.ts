import { expect, test } from '@jest/globals';
import { putMail, until } from '../../server/src/testing/mailboxTools';
import { routeTo } from '../../server/src/testing/routeTo';
import { owner } from '../../server/src/testing/testServer';
import { seen } from './browser';
import { violations } from './testing/violations';
import { crew, good, hurry, mailhost, reach, received, REP, stage } from './testing/writerStage';

test('a rep starts a series without the mouse, sends its first email after a look, and it stops when they answer', async () => {
  const { page, server } = stage;
  const token = { token: crew.tokens.rep };
  const { id: templateId } = good(
    await server.call(routeTo('createTemplate'), {
      ...token,
      body: { kind: 'template', name: 'After the fair', subject: 'Good to meet you, {{person.firstName}}', html: '<p>Hello</p>' },
    }),
  );
  const steps = [
    { kind: 'email', waitDays: 0, templateId },
    { kind: 'task', waitDays: 2, text: 'Call' },
  ];
  good(await server.call(routeTo('createSeries'), { ...token, body: { name: 'Fair', steps } }));
  const [tove] = await owner(server.ownerUrl, `SELECT id FROM contacts WHERE name = 'Tove Lund'`);
  await page.goto(`${server.url}/records/contact/${Number(tove?.id)}`);
  await reach('::-p-aria(Start a series)');
  await page.keyboard.press('Enter');
  await reach('[role=dialog] [role=combobox]');
  await page.keyboard.press('Enter');
  await page.locator('::-p-aria([role=\"option\"])').wait();
  await page.keyboard.press('End');
  await page.keyboard.press('Enter');
  expect(await violations(page)).toEqual([]);
  await reach('::-p-aria([name="Start"][role="button"])');
  await page.keyboard.press('Enter');
  await seen(page, 'Email to look at · Step 1 of 2');
  await reach('::-p-aria(Open email)');
  await page.keyboard.press('Enter');
  await reach('::-p-aria([name="Send email"][role="button"])');
  await page.keyboard.press('Enter');
  await hurry();
  expect(await received('Good to meet you, Tove')).toHaveLength(1);
  await seen(page, 'Waits · Step 2 of 2');
  putMail(mailhost, REP, {
    id: 'tove@morland.example',
    from: 'Tove <tove@morland.example>',
    to: REP,
    subject: 'Likewise',
    date: new Date().toUTCString(),
    text: 'Yes.',
  });
  await until(
    async () => {
      await owner(server.ownerUrl, `UPDATE series_runs SET look_at = now() WHERE state = 'waiting'`);
      await owner(server.ownerUrl, `SELECT pg_notify('fulvet_changes', '{"kind":"work","queue":"series"}')`);
      return owner(server.ownerUrl, `SELECT why FROM series_runs WHERE state = 'stopped'`);
    },
    (rows) => rows.length === 1,
  );
  await page.goto(`${server.url}/series`);
  await page.locator('::-p-text(Fair)').click();
  await seen(page, 'Stopped: there was an answer');
  expect(await violations(page)).toEqual([]);
});
