/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { mailboxDetail, routes, teamMember } from '@fulvet/contract';
import type { MailboxDetail } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { HEDDA, workspace } from '../testing/answers';
import { like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const ADDRESS = 'nadia@quillmere.example';
const mailbox = (more: Partial<MailboxDetail> = {}): MailboxDetail =>
  like(mailboxDetail, {
    id: 7,
    address: ADDRESS,
    owner: 'Nadia',
    ownerId: 2,
    state: 'connecting',
    connection: null,
    checks: [],
    ...more,
  } as never);
const servers = {
  imap: { host: 'mail.quillmere.example', port: 993, security: 'tls' as const },
  smtp: { host: 'mail.quillmere.example', port: 465, security: 'tls' as const },
};
const connection = { ...servers, preset: 'general', userName: ADDRESS, signIn: 'password' as const, hasSecret: true };
const answers = (more: Answers = {}): Answers => ({
  ...workspace(),
  listTeam: {
    members: [
      like(teamMember, { id: HEDDA.id, name: HEDDA.name, email: HEDDA.email }),
      like(teamMember, { id: 2, name: 'Nadia', email: ADDRESS }),
    ],
  },
  getMailbox: mailbox(),
  findServers: like(routes.findServers.response, { by: 'service records', ...servers }),
  ...more,
});

describe('connecting a mailbox', () => {
  test('begins with whose it is, found by the address, and leads on', async () => {
    const page = openPage('/mailboxes/connect', answers({ createMailbox: mailbox() }));
    const owner = await screen.findByRole('combobox', { name: 'Owner' });
    await waitFor(() => expect(page.calls('listTeam')).toHaveLength(1));
    expect(await page.choicesOf(owner)).toContain('Nadia');
    await page.user.type(screen.getByLabelText('Address'), ADDRESS);
    expect(owner.textContent).toBe('Nadia');
    await page.user.type(screen.getByLabelText(/^Other addresses of the same person/), 'n.okonjira@quillmere.example nadia@old.example');
    await page.user.click(screen.getByRole('button', { name: 'Find its server' }));
    await waitFor(() => expect(page.address()).toBe('/mailboxes/connect/7'));
    expect(page.calls('createMailbox')[0]?.body).toEqual({
      address: ADDRESS,
      kind: 'person',
      ownerId: 2,
      aliases: ['n.okonjira@quillmere.example', 'nadia@old.example'],
    });
  });

  test('of a shared address asks who uses it', async () => {
    const page = openPage('/mailboxes/connect', answers({ createMailbox: mailbox() }));
    await page.user.type(await screen.findByLabelText('Address'), 'sales@quillmere.example');
    await page.user.click(screen.getByRole('radio', { name: 'A shared address, answered by several members' }));
    const users = screen.getByRole('group', { name: /Who uses it/ });
    await page.user.click(await within(users).findByRole('checkbox', { name: 'Nadia' }));
    await page.user.click(screen.getByRole('button', { name: 'Find its server' }));
    await waitFor(() => expect(page.calls('createMailbox')[0]?.body).toMatchObject({ kind: 'shared', userIds: [2] }));
    expect(screen.queryByLabelText(/^Other addresses/)).toBeNull();
  });

  test('lets a member connect their own, and asks nothing about whose it is', async () => {
    openPage('/mailboxes/connect', { ...answers(), getSession: workspace('rep').getSession } as Answers);
    expect((await screen.findByLabelText<HTMLInputElement>('Address')).value).toBe(HEDDA.email);
    expect(screen.queryByRole('combobox', { name: 'Owner' })).toBeNull();
  });

  test('says at the field what is wrong with an address', async () => {
    const exists = new Refused(409, 'exists', 'That mailbox is there already.', { address: 'It is connected: nadia@quillmere.example.' });
    const page = openPage('/mailboxes/connect', answers({ createMailbox: exists }));
    await page.user.type(await screen.findByLabelText('Address'), `${ADDRESS}{Enter}`);
    expect((await screen.findByRole('alert')).textContent).toBe('It is connected: nadia@quillmere.example.');
  });

  test('shows the server that was found, asks for the password alone, and tries it', async () => {
    const page = openPage(
      '/mailboxes/connect/7',
      answers({ putConnection: mailbox({ connection } as never), checkMailbox: mailbox({ connection } as never) } as Answers),
    );
    await screen.findByText('The domain itself says where its mail servers are.');
    expect(screen.getByText('mail.quillmere.example:993')).toBeTruthy();
    expect(screen.queryByRole('button', { name: /^Go to/ })).toBeNull();
    const password = screen.getByLabelText<HTMLInputElement>('Password of the mailbox');
    expect([password.type, password.required]).toEqual(['password', true]);
    expect(page.calls('findServers')).toHaveLength(1);
  });

  test('asks for the servers where no one knows them', async () => {
    const nothing = like(routes.findServers.response, { by: 'nothing', imap: null, smtp: null } as never);
    openPage('/mailboxes/connect/7', answers({ findServers: nothing }));
    await screen.findByText(/The domain does not say where its mail servers are/);
    expect(screen.getByRole('group', { name: 'Reading (IMAP)' })).toBeTruthy();
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Try it' }).disabled).toBe(true);
  });

  test('stores what was written, and begins with the checks', async () => {
    const stored = mailbox({ connection } as never);
    const page = openPage('/mailboxes/connect/7', answers({ putConnection: stored, checkMailbox: stored } as Answers));
    await page.user.click(await screen.findByRole('button', { name: 'Try it' }));
    expect((await screen.findByRole('alert')).textContent).toBe('This is missing.');
    expect(page.calls('putConnection')).toEqual([]);
    await page.user.type(screen.getByLabelText('Password of the mailbox'), 'tide table');
    await page.user.click(screen.getByRole('button', { name: 'Another server' }));
    const reading = screen.getByRole('textbox', { name: 'Reading (IMAP): server' });
    await page.user.clear(reading);
    await page.user.type(reading, ' imap.quillmere.example ');
    await page.choose(screen.getByRole('combobox', { name: 'Sending (SMTP): security' }), 'STARTTLS');
    await page.user.click(screen.getByRole('button', { name: 'Try it' }));
    await waitFor(() => expect(page.calls('checkMailbox')).toHaveLength(1));
    expect(page.calls('putConnection')[0]?.body).toEqual({
      imap: { ...servers.imap, host: 'imap.quillmere.example' },
      // The usual port of the other way of securing it.
      smtp: { ...servers.smtp, port: 587, security: 'starttls' },
      userName: ADDRESS,
      signIn: 'password',
      password: 'tide table',
    });
  });

  test('says beside a server what is wrong with it', async () => {
    const refused = new Refused(422, 'bad-input', 'This cannot be taken.', { 'smtp.host': 'is inside this network' });
    const page = openPage('/mailboxes/connect/7', answers({ putConnection: refused }));
    await page.user.type(await screen.findByLabelText('Password of the mailbox'), 'tide table');
    await page.user.click(screen.getByRole('button', { name: 'Another server' }));
    await page.user.click(screen.getByRole('button', { name: 'Try it' }));
    const sending = screen.getByRole('group', { name: 'Sending (SMTP)' });
    expect((await within(sending).findByRole('alert')).textContent).toBe('This is inside this network.');
    expect(screen.getAllByRole('alert')).toHaveLength(1);
  });

  test('that was refused at the provider says so, and changes nothing', async () => {
    openPage('/mailboxes/connect/7?signedIn=refused', answers());
    await screen.findByText('The permission was not given at the provider. Nothing was changed; try again when you like.');
  });

  test('reads nothing before every check has passed', async () => {
    openPage('/mailboxes/connect/7', answers());
    await screen.findByText('Available when every check has passed: folders, how far back, and who may see the mail.');
    expect(screen.getByText(/Fulvet changes no flag, no folder and no email in the mailbox/)).toBeTruthy();
  });

  test('of a mailbox that is gone says so', async () => {
    openPage('/mailboxes/connect/99', answers({ getMailbox: new Refused(404, 'not-found', 'There is no mailbox 99.') }));
    await screen.findByText('There is no mailbox 99.');
  });
});
