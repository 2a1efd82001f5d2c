/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { importRun, mailbox as mailboxShape, mailboxDetail, mailboxFolder, teamMember } from '@fulvet/contract';
import type { ImportRun, MailboxDetail } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { HEDDA, workspace } from '../testing/answers';
import { like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const ADDRESS = 'nadia@quillmere.example';
const endpoint = { host: 'mail.quillmere.example', port: 993, security: 'tls' as const };
const box = (more: Partial<MailboxDetail> = {}): MailboxDetail =>
  like(mailboxDetail, {
    id: 7,
    address: ADDRESS,
    kind: 'person',
    owner: 'Nadia',
    ownerId: 2,
    state: 'running',
    emails: 120,
    aliases: ['n.okonjira@quillmere.example'],
    connection: {
      preset: 'general',
      imap: endpoint,
      smtp: { ...endpoint, port: 465 },
      userName: ADDRESS,
      signIn: 'password',
      hasSecret: true,
    },
    health: { level: 'well', state: 'Works', problem: null },
    ...more,
  } as never);
const answers = (more: Answers = {}): Answers => ({
  ...workspace(),
  listTeam: {
    members: [
      like(teamMember, { id: HEDDA.id, name: HEDDA.name, email: HEDDA.email, role: 'admin' }),
      like(teamMember, { id: 2, name: 'Nadia', email: ADDRESS, role: 'rep' }),
      like(teamMember, { id: 3, name: 'Priya', email: 'priya@quillmere.example', role: 'rep' }),
    ],
  },
  getMailbox: box(),
  ...more,
});

describe('the settings of a mailbox', () => {
  test('take several addresses of the same person, and say that they are in force', async () => {
    const page = openPage('/mailboxes/7', answers({ putMailboxSettings: box({ aliases: ['nadia@old.example'] }) }));
    const field = await screen.findByRole<HTMLInputElement>('textbox', { name: 'Other addresses of the same person' });
    expect(field.value).toBe('n.okonjira@quillmere.example');
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Save' }).disabled).toBe(true);
    await page.user.type(field, ', nadia@old.example{Enter}');
    await waitFor(() =>
      expect(page.calls('putMailboxSettings')[0]?.body).toEqual({ aliases: ['n.okonjira@quillmere.example', 'nadia@old.example'] }),
    );
    await screen.findByText('Changed. It is in force at once.');
    await waitFor(() =>
      expect(screen.getByRole<HTMLInputElement>('textbox', { name: 'Other addresses of the same person' }).value).toBe('nadia@old.example'),
    );
  });

  test('choose who uses a shared address', async () => {
    const shared = box({ kind: 'shared', users: [{ id: 2, name: 'Nadia' }] });
    const page = openPage('/mailboxes/7', answers({ getMailbox: shared, putMailboxSettings: shared }));
    const users = await screen.findByRole('group', { name: 'Who uses it, and sees its mail' });
    await page.user.click(await within(users).findByRole('checkbox', { name: 'Priya' }));
    await waitFor(() => expect(page.calls('putMailboxSettings')[0]?.body).toEqual({ userIds: [2, 3] }));
    expect(screen.queryByRole('textbox', { name: 'Other addresses of the same person' })).toBeNull();
  });

  test('follow folders, and never those that hold nothing anyone was written to', async () => {
    const folder = (id: number, path: string, role: MailboxDetail['folders'][number]['role']): MailboxDetail['folders'][number] =>
      like(mailboxFolder, { id, path, role, followed: false } as never);
    const page = openPage(
      '/mailboxes/7',
      answers({ getMailbox: box({ folders: [folder(1, 'Projects', 'other'), folder(2, 'Drafts', 'drafts')] }), putMailboxSettings: box() }),
    );
    const folders = within(await screen.findByRole('list', { name: 'Folders' }));
    expect(folders.getByRole<HTMLInputElement>('checkbox', { name: /^Drafts/ }).disabled).toBe(true);
    await page.user.click(folders.getByRole('checkbox', { name: /^Projects/ }));
    await waitFor(() => expect(page.calls('putMailboxSettings')[0]?.body).toEqual({ folders: [{ id: 1, followed: true }] }));
  });
});

describe('a mailbox', () => {
  test('in trouble says what it means, and is tried again now', async () => {
    const problem = {
      code: 'sign-in',
      title: 'The password is refused',
      since: '2026-05-04T10:00:00.000Z',
      means: 'New mail is missing.',
      doing: 'It has stopped.',
      todo: 'Give the new password.',
      said: 'AUTHENTICATIONFAILED',
    };
    const troubled = box({ state: 'stopped', health: { level: 'stopped', state: 'Stopped', problem } } as never);
    const page = openPage('/mailboxes/7', answers({ getMailbox: troubled, retryMailbox: box() }));
    const alert = await screen.findByRole('alert');
    for (const words of ['The password is refused', 'New mail is missing.', 'Give the new password.', 'AUTHENTICATIONFAILED'])
      expect(alert.textContent).toContain(words);
    await page.user.click(screen.getByRole('button', { name: 'Try now' }));
    await waitFor(() => expect(page.calls('retryMailbox')).toHaveLength(1));
    await waitFor(() => expect(screen.queryByRole('alert')).toBeNull());
  });

  test('is given to a colleague, and back', async () => {
    const page = openPage('/mailboxes/7', answers({ passOnMailbox: { emails: 120 } }));
    await page.user.click(await screen.findByRole('button', { name: 'Give to a colleague …' }));
    const dialog = await screen.findByRole('dialog');
    const colleague = within(dialog).getByRole('combobox', { name: 'Colleague' });
    await waitFor(async () => expect(await page.choicesOf(colleague)).toEqual(['Choose …', HEDDA.name, 'Priya']));
    await page.choose(colleague, 'Priya');
    await page.user.click(within(dialog).getByRole('button', { name: 'Give it to Priya' }));
    await screen.findByText('Priya looks after it now and reads 120 emails that Nadia read before.');
    await page.user.click(await screen.findByRole('button', { name: 'Give it back' }));
    await waitFor(() => expect(page.calls('passOnMailbox').map((call) => call.body as object)).toEqual([{ ownerId: 3 }, { ownerId: 2 }]));
  });

  test('is disconnected once that was confirmed; its history stays', async () => {
    const page = openPage('/mailboxes/7', answers({ disconnectMailbox: {} }));
    await page.user.click(await screen.findByRole('button', { name: 'Disconnect …' }));
    const dialog = within(await screen.findByRole('dialog', { name: `Disconnect ${ADDRESS}?` }));
    expect(dialog.getByText(/^Its 120 emails stay in the histories\./)).toBeTruthy();
    await page.user.click(dialog.getByRole('button', { name: 'Keep it connected' }));
    expect(page.calls('disconnectMailbox')).toEqual([]);
    await page.user.click(screen.getByRole('button', { name: 'Disconnect …' }));
    await page.user.click(within(await screen.findByRole('dialog')).getByRole('button', { name: 'Disconnect' }));
    await waitFor(() => expect(page.address()).toBe('/mailboxes'));
  });

  test('of a colleague is not given away by those who are no administrators', async () => {
    openPage('/mailboxes/7', { ...answers(), getSession: workspace('rep').getSession } as Answers);
    await screen.findByRole('button', { name: 'Disconnect …' });
    expect(screen.queryByRole('button', { name: 'Give to a colleague …' })).toBeNull();
  });
});

describe('many mailboxes', () => {
  const row = (line: number, address: string, problem: string | null) => ({ line, address, problem, mailboxId: null });

  test('are looked through before they are connected, and again when the list was changed', async () => {
    const page = openPage(
      '/mailboxes/many',
      answers({ connectMany: { rows: [row(2, ADDRESS, null), row(3, 'priya@', 'This is no address.')], done: false } }),
    );
    const list = await screen.findByRole('textbox', { name: 'List of mailboxes as CSV' });
    await page.user.type(list, 'address,password{Enter}nadia@quillmere.example,tide');
    await page.user.click(screen.getByRole('button', { name: 'Look through the list' }));
    await screen.findByText('1 line needs a correction; nothing has been changed.');
    expect(screen.getByText('This is no address.')).toBeTruthy();

    page.answer({ connectMany: { rows: [row(2, ADDRESS, null)], done: false } });
    await page.user.type(list, ' ');
    expect(screen.queryByText('This is no address.')).toBeNull();
    await page.user.click(screen.getByRole('button', { name: 'Look through the list' }));
    page.answer({ connectMany: { rows: [{ ...row(2, ADDRESS, null), mailboxId: 7 }], done: true } });
    await page.user.click(await screen.findByRole('button', { name: 'Connect 1 mailbox' }));
    await waitFor(() => expect(page.address()).toBe('/mailboxes/many?ids=7'));
    expect(page.calls('connectMany').map(({ body }) => (body as { commit: boolean }).commit)).toEqual([false, false, true]);
  });

  test('that the server cannot read say why', async () => {
    const page = openPage('/mailboxes/many', answers({ connectMany: new Refused(422, 'bad-input', 'The first line names no columns.') }));
    await page.user.type(await screen.findByRole('textbox', { name: 'List of mailboxes as CSV' }), 'nadia');
    await page.user.click(screen.getByRole('button', { name: 'Look through the list' }));
    await screen.findByText('The first line names no columns.');
  });

  test('are started together once their checks have passed', async () => {
    const page = openPage(
      '/mailboxes/many?ids=7,8',
      answers({
        getMailbox: ({ params }) => box({ id: Number(params.id), state: 'connecting', checked: params.id === '7' }),
        startMailbox: box(),
      }),
    );
    await page.user.click(await screen.findByRole('button', { name: 'Start those that passed' }));
    await screen.findByText('1 mailbox started.');
    expect(page.calls('startMailbox').map(({ params }) => params.id)).toEqual(['7']);
  });
});

describe('an import of mail', () => {
  test('says what is wrong with the address before it sends anything', async () => {
    const page = openPage(
      '/mailboxes',
      answers({ listMailboxes: { mailboxes: [like(mailboxShape, { id: 7, address: ADDRESS } as never)] } }),
    );
    const files = await screen.findByLabelText<HTMLInputElement>('Mail files');
    await page.user.upload(files, new File(['From - \n'], 'old.mbox'));
    await screen.findByText('old.mbox');
    const field = screen.getByRole('combobox', { name: /^Which mailbox is it from/ });
    await page.user.type(field, 'nadia@');
    await page.user.click(screen.getByRole('button', { name: 'Import this file' }));
    await screen.findByRole('alert');
    expect(field.getAttribute('aria-invalid')).toBe('true');
    expect(page.calls('createImport')).toEqual([]);
  });

  test('that is done says how much of it is new, and is undone after its effect was told', async () => {
    const run: ImportRun = like(importRun, {
      id: 4,
      mailbox: ADDRESS,
      files: ['a.mbox', 'b.mbox', 'c.mbox', 'd.mbox'],
      state: 'done',
      phase: 'done',
      undo: 12,
      counts: { new: 1200, otherSighting: 3, known: 40, unreadable: 1, withProblems: 1, decided: 0, toDecide: 0 },
    } as never);
    const page = openPage(
      '/mailboxes/imports/4',
      answers({
        getImport: run,
        listImportItems: {
          items: [
            {
              position: 9,
              file: 'a.mbox',
              result: 'unreadable',
              emailId: null,
              outcome: null,
              problems: [{ code: 'cut', message: 'It ends too soon.' }],
            },
          ],
          total: 1,
        },
      }),
    );
    await screen.findByText('a.mbox, b.mbox, c.mbox and 1 more', { exact: false });
    expect(screen.getByText('1,200')).toBeTruthy();
    await screen.findByText('It ends too soon.');
    // What could be read in part only is shown first.
    expect(page.calls('listImportItems')[0]?.query).toMatchObject({ problems: 'yes' });
    await page.user.click(screen.getByRole('button', { name: 'Undo this import' }));
    expect((await screen.findByRole('dialog')).textContent).toContain('Emails that were filed by hand since stay.');
  });
});
