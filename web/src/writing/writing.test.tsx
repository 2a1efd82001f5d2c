/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { routes } from '@fulvet/contract';
import type { Outgoing, OutgoingContent, OutgoingRow } from '@fulvet/contract';
import { beforeEach, describe, expect, test } from '@jest/globals';
import { format } from 'date-fns';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { like } from '../testing/emptyAnswer';
import { openPage, Refused } from '../testing/openPage';
import { MAY_WRITE, SENDER } from '../testing/sender';
import type { Answers } from '../testing/openPage';
import { POLICY } from '../testing/policy';
import { nextWorkingMorning } from './nextWorkingMorning';

const row = (id: number, more: Partial<OutgoingRow> = {}): OutgoingRow => ({
  ...like(routes.listOutgoing.response.shape.emails.element, { id, state: 'draft', kind: 'new', from: 'rep@quillmere.example' }),
  subject: `Email ${id}`,
  changedAt: '2026-05-04T10:00:00Z',
  ...more,
});

let stored: Outgoing;
beforeEach(() => {
  window.localStorage.clear();
  stored = {
    ...row(7, { subject: 'Gauge' }),
    revision: 3,
    mailboxId: 2,
    fromAddress: null,
    withSignature: true,
    to: [{ name: 'Ida Brandt', address: 'ida@harbour.example' }],
    cc: [],
    bcc: [],
    html: '<p>Hello</p>',
    quote: '<p>On 4 May 2026, Ida Brandt wrote:</p><blockquote><p>When?<br>Ida</p></blockquote>',
    withQuote: true,
    filing: { how: 'records', records: [{ kind: 'deal', id: 5, name: 'Storm gate' }] },
    answers: null,
    files: [],
    remindDays: null,
    measured: false,
  };
});

const answers = (more: Answers = {}): Answers => ({
  ...workspace('rep'),
  listOutgoing: () => ({ emails: [stored] }),
  getOutgoing: () => stored,
  listSenders: { senders: [SENDER], ...MAY_WRITE },
  previewOutgoing: { outcome: 'filed', sentence: 'It will be filed under Storm gate.', records: [], warnings: [], measuring: null },
  saveOutgoing: ({ body }) => {
    const content = body as OutgoingContent;
    stored = {
      ...stored,
      subject: content.subject ?? '',
      html: content.html ?? '',
      withQuote: content.withQuote ?? true,
      fromAddress: content.fromAddress ?? null,
      withSignature: content.withSignature ?? true,
      revision: stored.revision + 1,
    };
    return stored;
  },
  sendOutgoing: () => (stored = { ...stored, state: 'due', dueAt: '2026-05-04T10:00:10Z' }),
  takeBackOutgoing: () => (stored = { ...stored, state: 'draft', dueAt: null }),
  ...more,
});

async function openComposer(more: Answers = {}) {
  const page = openPage('/outgoing', answers(more));
  await page.user.click(await screen.findByRole('button', { name: 'Open draft' }));
  const tray = within(await screen.findByRole('region', { name: 'Emails that you write' }));
  await tray.findByRole('textbox', { name: 'Text' });
  return { page, tray };
}

describe('an email that is being written', () => {
  test('saves itself, says how it will be filed, and is sent as it was last saved; it can be taken back', async () => {
    const { page, tray } = await openComposer();
    await tray.findByText('It will be filed under Storm gate.');
    await page.user.type(tray.getByRole('textbox', { name: 'Subject' }), ' at quay 4');
    await tray.findByText(/^Draft saved/, {}, { timeout: 4000 });
    expect(page.calls('saveOutgoing').at(-1)?.body).toMatchObject({
      revision: 3,
      subject: 'Gauge at quay 4',
      html: '<p>Hello</p>',
      filing: { how: 'records', records: [{ kind: 'deal', id: 5 }] },
    });
    await page.user.type(tray.getByRole('textbox', { name: 'Subject' }), '!');
    await page.user.click(tray.getByRole('button', { name: 'Send email' }));
    await screen.findByText('Your email is sent in 10 seconds.');
    expect(page.calls('saveOutgoing').at(-1)?.body).toMatchObject({ revision: 4, subject: 'Gauge at quay 4!' });
    expect(page.calls('sendOutgoing').map(({ body }) => body)).toEqual([{ revision: 5, at: null }]);
    expect(screen.queryByRole('region', { name: 'Emails that you write' })).toBeNull();
    await page.user.click(screen.getAllByRole('button', { name: 'Take back' }).at(-1)!);
    await screen.findByText('Your email is a draft again.');
    await screen.findByRole('region', { name: 'Emails that you write' });
  });

  test('has its openings counted where its writer wants it and nothing speaks against it', async () => {
    let why = '';
    const { page, tray } = await openComposer({
      previewOutgoing: () => ({ outcome: 'filed', sentence: '', records: [], warnings: [], measuring: { why, notice: 'We see it.' } }),
    });
    const count = await tray.findByRole('checkbox', { name: 'Count whether it is opened' });
    expect(count).toMatchObject({ checked: false, disabled: false });
    why = 'Openings by this person are never counted.';
    await page.user.click(count);
    tray.getByText('A notice below the text says so to its recipient.');
    await tray.findByText(/^Draft saved/, {}, { timeout: 4000 });
    expect(page.calls('saveOutgoing').at(-1)?.body).toMatchObject({ measured: true });
    await tray.findByText(why);
    expect(tray.getByRole('checkbox', { name: 'Count whether it is opened' })).toMatchObject({ checked: false, disabled: true });
  });

  test('is held until its writer agrees to copies in the mailbox, where that was not asked yet', async () => {
    const { page, tray } = await openComposer({
      sendOutgoing: ({ body }) =>
        (body as { agree?: boolean }).agree
          ? (stored = { ...stored, state: 'due', dueAt: '2026-05-04T10:00:10Z' })
          : new Refused(409, 'agree-first', 'A copy of each email is put into the sent folder. Agree once, and it is sent.'),
    });
    await page.user.click(tray.getByRole('button', { name: 'Send email' }));
    expect((await tray.findByRole('alert')).textContent).toContain('Agree once');
    await page.user.click(tray.getByRole('button', { name: 'Agree and send' }));
    await screen.findByText('Your email is sent in 10 seconds.');
    expect(page.calls('sendOutgoing').map(({ body }) => body)).toEqual([
      { revision: 3, at: null },
      { revision: 3, at: null, agree: true },
    ]);
  });

  test('is sent from the address that its writer chooses, with the signature of it unless that is left out', async () => {
    const senders = [
      { ...SENDER, signature: '<p>{{sender.name}}</p>', signed: '<p>Rep</p>' },
      { ...SENDER, address: 'gauges@quillmere.example', isAlias: true, signed: '<p>Gauges</p>', signature: '<p>Gauges</p>' },
      { ...SENDER, address: 'not.proven@quillmere.example', isAlias: true, isProven: false },
    ];
    const { page, tray } = await openComposer({ listSenders: { senders, ...MAY_WRITE } });
    await page.user.click(await tray.findByRole('button', { name: 'Show signature' }));
    tray.getByText('Rep');
    await page.user.click(tray.getByRole('combobox', { name: 'From' }));
    expect(screen.getAllByRole('option').map(({ textContent }) => textContent)).toEqual([
      'rep@quillmere.example',
      'gauges@quillmere.example',
    ]);
    await page.user.click(screen.getByRole('option', { name: 'gauges@quillmere.example' }));
    await tray.findByText('Gauges');
    await page.user.click(tray.getByRole('checkbox', { name: 'Send signature' }));
    await tray.findByText(/^Draft saved/, {}, { timeout: 4000 });
    expect(page.calls('saveOutgoing').at(-1)?.body).toMatchObject({
      mailboxId: 2,
      fromAddress: 'gauges@quillmere.example',
      withSignature: false,
    });
  });

  test('is sent at the next working morning, or at a time that is still to come', async () => {
    const { page, tray } = await openComposer();
    await page.user.click(tray.getByRole('button', { name: 'Send later …' }));
    const send = tray.getByRole('button', { name: 'Send at this time' });
    expect(send).toHaveProperty('disabled', true);
    await page.user.click(tray.getByRole('button', { name: 'Next working morning' }));
    await page.user.click(send);
    await screen.findByText(/^Your email will be sent/);
    const { at } = page.calls('sendOutgoing')[0]?.body as { at: string };
    expect(new Date(at)).toEqual(nextWorkingMorning(new Date()));
  });

  test('is sent by the clock of the recipient, without the holidays of the workspace', async () => {
    const morning = nextWorkingMorning(new Date());
    const { page, tray } = await openComposer({
      getRecipientClock: { clock: { offsetMinutes: 330, at: '2026-11-09T04:30:00Z', name: 'Ravi Sen' } },
      getWorkspace: () => ({ ...POLICY, automatic: { ...POLICY.automatic, holidays: [{ day: format(morning, 'yyyy-MM-dd'), name: '' }] } }),
    });
    await page.user.click(tray.getByRole('button', { name: 'Send later …' }));
    await page.user.click(await tray.findByRole('combobox', { name: 'By whose clock' }));
    await page.user.click(screen.getByRole('option', { name: 'Their time (UTC+05:30)' }));
    await tray.findByText(/By the clock of Ravi Sen in their email of/);
    await page.user.click(tray.getByRole('button', { name: 'Next working morning' }));
    await page.user.click(tray.getByRole('button', { name: 'Send at this time' }));
    await screen.findByText(/^Your email will be sent/);
    const { at } = page.calls('sendOutgoing')[0]?.body as { at: string };
    expect(at).toMatch(/T02:30:00/);
    expect(at.slice(0, 10)).not.toBe(format(morning, 'yyyy-MM-dd'));
  });

  test('stays open over pages and after loading again, and is kept when it is closed', async () => {
    const first = await openComposer();
    await first.page.user.click(screen.getByRole('link', { name: 'Unknown people' }));
    await screen.findByRole('heading', { name: 'Unknown people' });
    expect(screen.getByRole('textbox', { name: 'Subject' })).toBeTruthy();
    const again = openPage('/', answers());
    await screen.findByRole('textbox', { name: 'Subject' });
    await again.user.click(screen.getByRole('button', { name: 'Fold' }));
    expect(screen.queryByRole('textbox', { name: 'Subject' })).toBeNull();
    await again.user.click(screen.getByRole('button', { name: 'Close Gauge; the draft is kept' }));
    await waitFor(() => expect(screen.queryByRole('region', { name: 'Emails that you write' })).toBeNull());
    expect(again.calls('discardOutgoing')).toEqual([]);
  });

  test('that was changed in another window says so, and saves nothing over it', async () => {
    const { page, tray } = await openComposer({
      saveOutgoing: new Refused(409, 'changed-meanwhile', 'This draft was changed in another window. Nothing was saved here.'),
    });
    await page.user.type(tray.getByRole('textbox', { name: 'Subject' }), '!');
    await page.user.click(tray.getByRole('button', { name: 'Send email' }));
    await tray.findByText(/changed in another window/);
    expect(tray.getByText('Not saved')).toBeTruthy();
    expect(page.calls('sendOutgoing')).toEqual([]);
  });

  test('folds what it quotes, and sends it along unless its writer does not want that', async () => {
    const { page, tray } = await openComposer();
    expect(tray.queryByText(/When\?/)).toBeNull();
    await page.user.click(tray.getByRole('button', { name: 'Show quoted text' }));
    expect(tray.getByText(/When\?/).textContent).toBe('When?\nIda');
    await page.user.click(tray.getByRole('checkbox', { name: 'Send quoted text' }));
    await waitFor(() => expect(page.calls('saveOutgoing').at(-1)?.body).toMatchObject({ withQuote: false }), { timeout: 4000 });
  });

  test('takes people by name or by address, several at once, and refuses half an address', async () => {
    const { page, tray } = await openComposer({
      findRecipients: { people: [{ name: 'Tove Lund', address: 'tove@morland.example', hint: 'Morland Docks' }] },
    });
    const to = tray.getByRole('combobox', { name: 'To' });
    await page.user.type(to, 'tov');
    await page.user.click(await tray.findByRole('option', { name: /Tove Lund/ }));
    await page.user.type(to, 'a@x.example; B@y.example,');
    await page.user.type(to, 'half@');
    await page.user.tab();
    await tray.findByText('Type a whole address, such as ida@harbour.example.');
    await waitFor(
      () =>
        expect(
          page
            .calls('saveOutgoing')
            .at(-1)
            ?.body.to.map(({ address }: { address: string }) => address),
        ).toEqual(['ida@harbour.example', 'tove@morland.example', 'a@x.example', 'b@y.example']),
      { timeout: 4000 },
    );
  });
});

describe('the list of outgoing emails', () => {
  test('says what needs the reader and why, and takes their word for what is unclear', async () => {
    const unclear = row(9, { state: 'unclear', problem: 'The connection ended before the mail server answered.' });
    const page = openPage(
      '/outgoing',
      answers({ listOutgoing: { emails: [unclear] }, settleOutgoing: () => ({ ...stored, state: 'sent' }) }),
    );
    await screen.findByText('1 email needs you');
    expect(screen.getByText('The connection ended before the mail server answered.')).toBeTruthy();
    await page.user.click(screen.getByRole('button', { name: 'It was sent' }));
    await waitFor(() => expect(page.calls('settleOutgoing')).toMatchObject([{ params: { id: '9' }, body: { wasSent: true } }]));
  });

  test('takes back what is not sent yet, and opens it again', async () => {
    stored = { ...stored, state: 'due', dueAt: '2026-05-04T10:00:10Z' };
    const page = openPage('/outgoing', answers());
    await page.user.click(await screen.findByRole('button', { name: 'Take back' }));
    await screen.findByText('Your email is a draft again.');
    expect(page.calls('takeBackOutgoing')).toHaveLength(1);
    await screen.findByRole('region', { name: 'Emails that you write' });
  });

  test('is empty with a way to begin', async () => {
    const page = openPage('/outgoing', answers({ listOutgoing: { emails: [] }, startOutgoing: () => stored }));
    await screen.findByText('No email yet');
    await page.user.click(screen.getByRole('button', { name: 'Write email' }));
    await screen.findByRole('region', { name: 'Emails that you write' });
    expect(page.calls('startOutgoing')[0]?.body).toMatchObject({ record: null, to: [] });
  });
});
