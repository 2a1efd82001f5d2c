/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { routes } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

type Row = (typeof routes)['listRecords']['response']['_output']['records'][number];
const row = (id: number, name: string): Row => like(routes.listRecords.response.shape.records.element, { id, name }) as Row;
const answers = (more: Answers = {}): Answers => ({
  ...workspace(),
  listRecords: like(routes.listRecords.response, { records: [row(3, 'Harbour Oriel'), row(4, 'Quay Works')], total: 2 }),
  getRecord: like(routes.getRecord.response, { kind: 'account', id: 3, name: 'Harbour Oriel' }),
  ...more,
});

describe('the lists of records', () => {
  test('say what kind has how many, and are filtered by the address bar', async () => {
    const page = openPage('/histories/account?quiet=30', answers());
    await screen.findByText('2 accounts');
    expect(page.calls('listRecords')[0]).toMatchObject({ params: { kind: 'account' }, query: { quiet: '30', sort: 'name' } });
    await page.user.selectOptions(screen.getByRole('combobox', { name: 'Owner' }), 'No owner');
    await waitFor(() => expect(page.calls('listRecords').at(-1)?.query).toMatchObject({ quiet: '30', owner: 'nobody' }));
    await page.user.click(screen.getByRole('button', { name: 'Clear filters' }));
    await waitFor(() => expect(page.address()).toBe('/histories/account'));
  });

  test('of no record say how to get some; of none that fits, to take a filter away', async () => {
    openPage('/histories/contact', answers({ listRecords: like(routes.listRecords.response) }));
    await screen.findByText('No contacts yet');
    openPage('/histories/contact?text=x', answers({ listRecords: like(routes.listRecords.response) }));
    await screen.findByText('No contact fits');
  });

  test('offer a viewer nothing to change', async () => {
    openPage('/histories/account', { ...answers(), getSession: workspace('viewer').getSession } as Answers);
    await screen.findByText('2 accounts');
    expect(screen.queryByRole('button', { name: 'New …' })).toBeNull();
    expect(screen.queryByRole('link', { name: 'Import' })).toBeNull();
  });

  test('show deals by open and stage, accounts by who made them', async () => {
    openPage('/histories/deal', answers({ getRecordSetup: like(routes.getRecordSetup.response, { stages: [] }) } as Answers));
    await screen.findByRole('combobox', { name: 'Stage' });
    expect(screen.queryByRole('combobox', { name: 'Made by' })).toBeNull();
    openPage('/histories/account', answers());
    await screen.findByRole('combobox', { name: 'Made by' });
    expect(screen.queryByRole('combobox', { name: 'Stage' })).toBeNull();
  });

  test('begin a record by hand, and lead to it', async () => {
    const page = openPage('/histories/account', answers({ createRecord: { id: 9, undo: 1 } }));
    await page.user.click(await screen.findByRole('button', { name: 'New …' }));
    const dialog = await screen.findByRole('dialog');
    await page.user.type(within(dialog).getByLabelText('Name'), 'Reef North');
    await page.user.type(within(dialog).getByLabelText(/^Domains/), 'reef.example{Enter}');
    await waitFor(() => expect(page.address()).toBe('/histories/account/9'));
    expect(page.calls('createRecord')[0]).toMatchObject({
      params: { kind: 'account' },
      body: { values: { name: 'Reef North', domains: 'reef.example' } },
    });
  });

  test('keep what was entered where the server refuses it', async () => {
    const page = openPage(
      '/histories/account',
      answers({ createRecord: new Refused(422, 'bad-request', 'gmail.com is a public mail provider and cannot stand for a company.', {}) }),
    );
    await page.user.click(await screen.findByRole('button', { name: 'New …' }));
    const dialog = await screen.findByRole('dialog');
    await page.user.type(within(dialog).getByLabelText('Name'), 'Reef North');
    await page.user.type(within(dialog).getByLabelText(/^Domains/), 'gmail.com{Enter}');
    await within(dialog).findByText('gmail.com is a public mail provider and cannot stand for a company.');
    expect(within(dialog).getByLabelText<HTMLInputElement>('Name').value).toBe('Reef North');
  });

  test('lead to a record with its history, which says when nothing stands there', async () => {
    const page = openPage('/histories/account/3', answers());
    await screen.findByText('No mail here yet');
    expect(screen.getByRole('heading', { name: /^Harbour Oriel/ })).toBeTruthy();
    await waitFor(() => expect(page.calls('getHistory')[0]?.params).toEqual({ kind: 'account', id: '3' }));
  });

  test('say when a record is gone', async () => {
    openPage('/histories/account/99', answers({ getRecord: new Refused(404, 'not-found', 'There is no account 99.') }));
    await screen.findByText('There is no account 99.');
  });
});
