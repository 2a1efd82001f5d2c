/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { emailDetail, repairResult } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { emailRow, workspace } from '../testing/answers';
import { AT, like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const rows = [
  emailRow(31, 'Delivery of the gauges'),
  emailRow(32, 'Clause 9', {
    direction: 'sent',
    content: {
      subject: 'Clause 9',
      preview: '',
      from: { role: 'from', address: 'hedda@quillmere.example', name: 'Hedda Quillmere', ours: true },
      to: [
        { role: 'to', address: 'nadia@quillmere.example', name: 'Nadia', ours: true },
        { role: 'to', address: 'ida@harbour.example', name: 'Ida Brandt', ours: false },
      ],
      recipientCount: 2,
      attachmentCount: 0,
    },
  }),
  emailRow(33, '', { outcome: 'kept out', content: null, externalDomains: ['talent.example'] }),
];
const answers = (more: Answers = {}): Answers => ({
  ...workspace('rep'),
  listEmails: { emails: rows, next: null, total: rows.length, isMore: false },
  getEmail: ({ params }) => like(emailDetail, { id: Number(params.id), at: AT, owned: true, outcome: 'filed' }),
  ...more,
});

describe('my mail', () => {
  test('lists the reader’s own, with whom each is, and opens the newest beside it', async () => {
    const page = openPage('/my-mail', answers());
    const list = await screen.findByRole('list', { name: 'My emails' });
    const buttons = await within(list).findAllByRole('button');
    expect(buttons.map((button) => button.textContent)).toEqual([
      expect.stringContaining('Ida Brandt'),
      expect.stringContaining('to Ida Brandt'),
      expect.stringContaining('talent.example'),
    ]);
    expect(page.calls('listEmails')[0]?.query).toMatchObject({ mine: 'yes', outcome: 'filed,waiting,unfiled,sealed,undecided' });
    await waitFor(() => expect(page.calls('getEmail')[0]?.params).toEqual({ id: '31' }));
    expect(buttons[0]?.getAttribute('aria-current')).toBe('true');
  });

  test('is walked through with the arrows', async () => {
    const page = openPage('/my-mail', answers());
    const list = await screen.findByRole('list', { name: 'My emails' });
    (await within(list).findAllByRole('button'))[0]?.focus();
    await page.user.keyboard('{ArrowDown}');
    await waitFor(() => expect(page.address()).toBe('/my-mail?email=32'));
    await page.user.keyboard('{ArrowDown}{ArrowDown}');
    await waitFor(() => expect(page.address()).toBe('/my-mail?email=33'));
  });

  test('shows what was kept out only where that is asked for', async () => {
    const page = openPage('/my-mail', answers());
    await page.user.click(await screen.findByRole('checkbox', { name: /what was kept out, too/ }));
    await waitFor(() => expect(page.calls('listEmails').at(-1)?.query).not.toHaveProperty('outcome'));
    expect(page.address()).toBe('/my-mail?kept-out=yes');
  });

  test('opens by a link with a Message-ID from any mail program', async () => {
    const page = openPage('/my-mail?message=%3Cabc%40harbour.example%3E', answers({ findByMessageId: { id: 32 } }));
    await waitFor(() => expect(page.address()).toBe('/my-mail?email=32'));
    expect(page.calls('findByMessageId')[0]?.query).toEqual({ id: '<abc@harbour.example>' });
    openPage(
      '/my-mail?message=gone',
      answers({ findByMessageId: new Refused(404, 'not-found', 'That email is in no mailbox of yours yet.') }),
    );
    await screen.findByText('That email is in no mailbox of yours yet.');
  });

  test('says how to begin where there is none', async () => {
    openPage('/my-mail', answers({ listEmails: { emails: [], next: null, total: 0, isMore: false } }));
    await screen.findByText('No mail of yours yet');
  });

  test('is sealed by its owner from beside it', async () => {
    const page = openPage('/my-mail?email=31', answers({ repair: like(repairResult, { summary: 'Sealed an email' }) }));
    await page.user.click(await screen.findByRole('button', { name: /^Seal/ }));
    await page.user.click(within(await screen.findByRole('dialog')).getByRole('button', { name: /^Seal/ }));
    await screen.findByText('Sealed an email.');
    expect(page.calls('repair')[0]?.body).toMatchObject({ emails: [31], seal: true });
  });
});
