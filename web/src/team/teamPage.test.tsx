/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { routes, teamMember } from '@fulvet/contract';
import type { TeamMember } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { HEDDA, workspace } from '../testing/answers';
import { like } from '../testing/emptyAnswer';
import type { Answers, OpenPage } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const member = (id: number, name: string, more: Partial<TeamMember> = {}): TeamMember =>
  like(teamMember, { id, name, email: `${name.toLowerCase()}@quillmere.example`, role: 'rep', active: true, hasPassword: true, ...more });
const members = [
  member(HEDDA.id, 'Hedda', { role: 'admin' }),
  member(2, 'Nadia', { secondFactor: true }),
  member(3, 'Jonas'),
  member(4, 'Gone', { active: false }),
];
const answers = (more: Answers = {}): Answers => ({ ...workspace(), listTeam: { members }, ...more });
const more = async ({ user }: OpenPage, name: string): Promise<void> => {
  const line = (await screen.findByText(name)).closest('li')!;
  await user.click(within(line).getByRole('button', { name: 'more' }));
};
const options = (): (string | null)[] => screen.getAllByRole('option').map((element) => element.firstChild?.textContent ?? null);

describe('the team', () => {
  test('offers for each member what fits them', async () => {
    const page = openPage('/team', answers());
    await more(page, 'Nadia');
    await screen.findAllByRole('option');
    expect(options()).toEqual(expect.arrayContaining(['Set a new password', 'Remove a lost second factor', 'Leaves the team …']));
    await page.user.keyboard('{Escape}');
    await more(page, 'Gone');
    await screen.findByRole('option', { name: /Activate member again/ });
    await page.user.keyboard('{Escape}');
    // No one shuts the door behind themselves.
    await more(page, 'Hedda');
    await screen.findByRole('option', { name: /Set a new password/ });
    expect(screen.queryByRole('option', { name: /Leaves the team/ })).toBeNull();
  });

  test('is only looked at by those who do not administer', async () => {
    openPage('/team', { ...answers(), getSession: workspace('rep').getSession } as Answers);
    await screen.findByText('Nadia');
    expect(screen.queryByRole('button', { name: 'more' })).toBeNull();
    expect(screen.queryByRole('button', { name: 'Add to the team' })).toBeNull();
  });

  test('says where mailboxes and records of who leaves went; no one gives mailboxes to themselves', async () => {
    const page = openPage(
      '/team',
      answers({ deactivateMember: like(routes.deactivateMember.response, { mailboxes: 1, emails: 1200, records: 14 }) }),
    );
    await more(page, 'Nadia');
    await page.user.click(await screen.findByRole('option', { name: /Leaves the team/ }));
    const dialog = await screen.findByRole('dialog', { name: 'Nadia leaves the team' });
    const mailboxes = within(dialog).getByRole('combobox', { name: /Their mailboxes go to/ });
    expect(await page.choicesOf(mailboxes)).toEqual(['no one: histories stay, and no new mail comes in', 'Jonas']);
    await page.choose(mailboxes, 'Jonas');
    await page.choose(within(dialog).getByRole('combobox', { name: /Their records and shared texts go to/ }), 'Hedda');
    await page.user.click(within(dialog).getByRole('button', { name: 'Deactivate member' }));
    await screen.findByText('Nadia has left. 1 mailbox with 1,200 emails and 14 records changed hands.');
    expect(page.calls('deactivateMember')[0]).toMatchObject({ params: { id: '2' }, body: { mailboxesTo: 3, recordsTo: 1 } });
  });

  test('keeps what was entered where it is refused, and names the field', async () => {
    const taken = new Refused(409, 'taken', 'That address is on the team already.', { email: 'Nadia has this address.' });
    const page = openPage('/team', answers({ addMember: taken }));
    const form = (await screen.findByRole('heading', { name: 'Add a member without asking' })).closest('form')!;
    await page.user.type(within(form).getByLabelText('Name'), 'Nadia Two');
    await page.user.type(within(form).getByLabelText('Address'), 'nadia@quillmere.example');
    await page.user.click(within(form).getByRole('button', { name: 'Add to the team' }));
    expect((await within(form).findByRole('alert')).textContent).toBe('Nadia has this address.');
    page.answer({ addMember: member(5, 'Nadia Two') });
    await page.user.click(within(form).getByRole('button', { name: 'Add to the team' }));
    await screen.findByText('Nadia Two is on the team.');
    await waitFor(() => expect(within(form).getByLabelText<HTMLInputElement>('Name').value).toBe(''));
    expect(page.calls('addMember').at(-1)?.body).toEqual({ email: 'nadia@quillmere.example', name: 'Nadia Two', role: 'rep' });
  });

  test('changes a role, and says what the server says against it', async () => {
    const page = openPage(
      '/team',
      answers({ changeMember: new Refused(409, 'last-admin', 'Someone has to administer. Make another member admin first.') }),
    );
    await page.user.click(await screen.findByRole('button', { name: /^Role of Hedda: admin/ }));
    await page.user.click(within(await screen.findByRole('listbox')).getByRole('option', { name: /^viewer/ }));
    await screen.findByText('Someone has to administer. Make another member admin first.');
  });
});
