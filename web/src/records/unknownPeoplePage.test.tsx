/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { repairResult, unknownPerson, unknownPeopleGroup } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { AT, like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const person = (name: string, address: string, lastEmailId: number) =>
  like(unknownPerson, {
    name,
    address,
    lastEmailId,
    lastAt: AT,
    nameConfidence: 1,
    domain: address.split('@')[1] ?? '',
    sent: 3,
    received: 2,
    title: 'Buyer',
  });
const groups = [
  like(unknownPeopleGroup, {
    domain: 'ferries.example',
    company: 'Ferries',
    people: [person('Una Hartwig', 'una@ferries.example', 31), person('Bo Lind', 'bo@ferries.example', 32)],
  }),
  like(unknownPeopleGroup, {
    domain: 'quay.example',
    company: 'Quay',
    accounts: [{ id: 5, name: 'Quay Works' }],
    people: [person('Cleo Brand', 'cleo@quay.example', 33)],
  }),
  like(unknownPeopleGroup, { domain: '', company: '', people: [person('Olga Prentiss', 'olga@post.example', 34)] }),
];
const answers = (more: Answers = {}): Answers => ({ ...workspace(), listUnknownPeople: { groups, people: 4 }, ...more });

describe('people whom no one has on record', () => {
  test('become records together, each with the account of their company, as one step that can be undone', async () => {
    const page = openPage(
      '/unknown-people',
      answers({
        repair: like(repairResult, {
          id: 8,
          created: [
            { kind: 'contact', id: 1, name: 'Una' },
            { kind: 'contact', id: 2, name: 'Bo' },
            { kind: 'contact', id: 3, name: 'Cleo' },
          ],
        }),
        undoRepair: { changed: 3, kept: [{ kind: 'contact', id: 2, name: 'Bo Lind', because: 'a deal names it' }] },
      }),
    );
    await page.user.click(await screen.findByLabelText('Everyone at Ferries'));
    await page.user.click(screen.getByLabelText('Everyone at Quay'));
    await page.user.click(screen.getByRole('button', { name: 'Start 3 contacts' }));
    await screen.findByText('3 records started; past mail is being filed under them.');
    expect(page.calls('repair')[0]?.body).toMatchObject({
      emails: [31, 32, 33],
      people: [
        { kind: 'contact', address: 'una@ferries.example', title: 'Buyer', account: { name: 'Ferries', domain: 'ferries.example' } },
        { kind: 'contact', address: 'bo@ferries.example', account: { name: 'Ferries', domain: 'ferries.example' } },
        { kind: 'contact', address: 'cleo@quay.example', account: { id: 5 } },
      ],
    });
    expect(screen.queryByRole('button', { name: /^Start/ })).toBeNull();
    await page.user.click(screen.getByRole('button', { name: 'Undo' }));
    await screen.findByText('Undone, except Bo Lind (a deal names it).');
    expect(page.calls('undoRepair')[0]?.params).toEqual({ id: '8' });
  });

  test('join no account by a guess where several share their domain', async () => {
    const shared = like(unknownPeopleGroup, {
      domain: 'quay.example',
      company: 'Quay',
      accounts: [
        { id: 5, name: 'Quay East' },
        { id: 6, name: 'Quay West' },
      ],
      people: [person('Cleo Brand', 'cleo@quay.example', 33)],
    });
    const page = openPage(
      '/unknown-people',
      answers({ listUnknownPeople: { groups: [shared], people: 1 }, repair: like(repairResult, { id: 8 }) }),
    );
    await page.user.click(await screen.findByLabelText('Everyone at Quay'));
    await page.user.click(screen.getByRole('button', { name: 'Start 1 contact' }));
    await waitFor(() => expect(page.calls('repair')[0]?.body.people).toMatchObject([{ kind: 'contact', account: null }]));
    await page.user.click(await screen.findByLabelText('Everyone at Quay'));
    await page.user.click(screen.getByRole('button', { name: 'none of them' }));
    await page.user.click(await screen.findByRole('option', { name: 'Quay West' }));
    await page.user.click(screen.getByRole('button', { name: 'Start 1 contact' }));
    await waitFor(() => expect(page.calls('repair')[1]?.body.people).toMatchObject([{ kind: 'contact', account: { id: 6 } }]));
  });

  test('become leads with their company’s name, at providers without one', async () => {
    const page = openPage('/unknown-people', answers({ repair: like(repairResult, { id: 8 }) }));
    await page.user.click(await screen.findByLabelText('Everyone at Quay'));
    await page.user.click(screen.getByLabelText('Everyone at public providers'));
    await page.user.click(screen.getByRole('button', { name: /^They become/ }));
    await page.user.click(await screen.findByRole('option', { name: /leads/ }));
    await page.user.click(screen.getByRole('button', { name: 'Start 2 leads' }));
    await waitFor(() =>
      expect(page.calls('repair')[0]?.body.people).toMatchObject([
        { kind: 'lead', address: 'cleo@quay.example', account: { name: 'Quay' } },
        { kind: 'lead', address: 'olga@post.example', account: null },
      ]),
    );
  });

  test('stay chosen when starting them fails, with the reason', async () => {
    const page = openPage('/unknown-people', answers({ repair: new Refused(409, 'taken', 'Una Hartwig is on record by now.') }));
    await page.user.click(await screen.findByLabelText('Everyone at Ferries'));
    await page.user.click(screen.getByRole('button', { name: 'Start 2 contacts' }));
    await screen.findByText('Una Hartwig is on record by now.');
    expect(screen.getByRole('button', { name: 'Start 2 contacts' })).toBeTruthy();
  });

  test('are looked for in other mail and another time; who may not start records is offered no start', async () => {
    const page = openPage('/unknown-people', answers());
    await page.user.click(await screen.findByRole('button', { name: /^Days/ }));
    await page.user.click(await screen.findByRole('option', { name: '30 days' }));
    await page.user.click(screen.getByRole('button', { name: /^Mail of/ }));
    await page.user.click(await screen.findByRole('option', { name: 'your own mailboxes' }));
    await waitFor(() => expect(page.calls('listUnknownPeople').at(-1)?.query).toEqual({ days: '30', whose: 'mine' }));
    expect(page.address()).toBe('/unknown-people?days=30&whose=mine');
    const viewer = openPage('/unknown-people', { ...answers(), ...workspace('viewer') });
    await viewer.user.click(await screen.findByLabelText('Everyone at Ferries'));
    expect(screen.queryByRole('button', { name: /^Start/ })).toBeNull();
  });

  test('no one is missing', async () => {
    openPage('/unknown-people', answers({ listUnknownPeople: { groups: [], people: 0 } }));
    await screen.findByText('No unknown people');
  });
});
