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
    const page = openPage('/records/account?quiet=30', answers());
    await screen.findByText('2 accounts');
    expect(page.calls('listRecords')[0]).toMatchObject({ params: { kind: 'account' }, query: { quiet: '30', sort: 'name' } });
    await page.choose(screen.getByRole('combobox', { name: 'Owner' }), 'No owner');
    await waitFor(() => expect(page.calls('listRecords').at(-1)?.query).toMatchObject({ quiet: '30', owner: 'nobody' }));
    await page.user.click(screen.getByRole('button', { name: 'Clear filters' }));
    await waitFor(() => expect(page.address()).toBe('/records/account'));
  });

  test('of no record say how to get some; of none that fits, to take a filter away', async () => {
    openPage('/records/contact', answers({ listRecords: like(routes.listRecords.response) }));
    await screen.findByText('No contacts yet');
    openPage('/records/contact?text=x', answers({ listRecords: like(routes.listRecords.response) }));
    await screen.findByText('No contact fits');
  });

  test('show the columns that the reader wants, as wide as they want, for this kind and from then on', async () => {
    const page = openPage('/records/account', answers());
    const heads = async (): Promise<(string | null)[]> => {
      await screen.findByText('2 accounts');
      return screen.getAllByRole('columnheader').map((head) => head.textContent);
    };
    const before = await heads();
    expect(before).toEqual(expect.arrayContaining(['Name', 'Owner', 'Days quiet']));
    await page.user.click(screen.getByRole('button', { name: /^Columns/ }));
    expect(screen.queryByRole('checkbox', { name: 'Name' })).toBeNull();
    await page.user.click(await screen.findByRole('checkbox', { name: 'Owner' }));
    await page.user.keyboard('{Escape}');
    const width = screen.getByRole('slider', { name: 'Width of Name' });
    width.focus();
    await page.user.keyboard('{ArrowRight}{ArrowRight}');
    expect(width.getAttribute('aria-valuenow')).toBe('832');

    openPage('/records/account', answers());
    expect(await heads()).toEqual(before.filter((label) => label !== 'Owner'));
    expect(screen.getByRole('slider', { name: 'Width of Name' }).getAttribute('aria-valuenow')).toBe('832');
    const other = openPage('/records/contact', answers());
    await screen.findByText('2 contacts');
    expect(screen.getByRole('columnheader', { name: /^Owner/ })).toBeTruthy();

    const again = openPage('/records/account', answers());
    await heads();
    await again.user.click(screen.getByRole('button', { name: /^Columns/ }));
    await again.user.click(screen.getByRole('button', { name: 'As they were' }));
    expect(await heads()).toEqual(before);
    expect(other.calls('listRecords').length).toBeGreaterThan(0);
  });

  test('offer a viewer nothing to change', async () => {
    openPage('/records/account', { ...answers(), getSession: workspace('viewer').getSession } as Answers);
    await screen.findByText('2 accounts');
    expect(screen.queryByRole('button', { name: 'New …' })).toBeNull();
    expect(screen.queryByRole('link', { name: 'Import' })).toBeNull();
  });

  test('show deals by open and stage, accounts by who made them', async () => {
    openPage('/records/deal', answers({ getRecordSetup: like(routes.getRecordSetup.response, { stages: [] }) } as Answers));
    await screen.findByRole('combobox', { name: 'Stage' });
    expect(screen.queryByRole('combobox', { name: 'Made by' })).toBeNull();
    openPage('/records/account', answers());
    await screen.findByRole('combobox', { name: 'Made by' });
    expect(screen.queryByRole('combobox', { name: 'Stage' })).toBeNull();
  });

  test('begin a record by hand, and lead to it', async () => {
    const page = openPage('/records/account', answers({ createRecord: { id: 9, undo: 1 } }));
    await page.user.click(await screen.findByRole('button', { name: 'New …' }));
    const dialog = await screen.findByRole('dialog');
    await page.user.type(within(dialog).getByLabelText('Name'), 'Reef North');
    await page.user.type(within(dialog).getByLabelText(/^Domains/), 'reef.example{Enter}');
    await waitFor(() => expect(page.address()).toBe('/records/account/9'));
    expect(page.calls('createRecord')[0]).toMatchObject({
      params: { kind: 'account' },
      body: { values: { name: 'Reef North', domains: 'reef.example' } },
    });
  });

  test('keep what was entered where the server refuses it', async () => {
    const page = openPage(
      '/records/account',
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
    const page = openPage('/records/account/3', answers());
    await screen.findByText('No mail here yet');
    expect(screen.getByRole('heading', { name: /^Harbour Oriel/ })).toBeTruthy();
    await waitFor(() => expect(page.calls('getHistory')[0]?.params).toEqual({ kind: 'account', id: '3' }));
  });

  test('an email of a history is answered there, and the answer is filed under the record', async () => {
    const email = like(routes.getHistory.response.shape.conversations.element.shape.emails.element, { id: 8, direction: 'received' });
    const content = like(routes.getHistory.response.shape.conversations.element.shape.emails.element.shape.content.unwrap(), {
      subject: 'Gauge',
    });
    const page = openPage(
      '/records/account/3',
      answers({
        getHistory: like(routes.getHistory.response, {
          emails: 1,
          conversations: [like(routes.getHistory.response.shape.conversations.element, { id: 5, emails: [{ ...email, content }] })],
        } as never),
        startOutgoing: like(routes.startOutgoing.response, { id: 7 }),
        getOutgoing: like(routes.getOutgoing.response, { id: 7 }),
      }),
    );
    await page.user.click(await screen.findByRole('button', { name: 'Answer this email' }));
    await waitFor(() =>
      expect(page.calls('startOutgoing')[0]?.body).toMatchObject({ kind: 'answer', emailId: 8, record: { kind: 'account', id: 3 } }),
    );
  });

  test('a record reminds of an email to its people that no one answered, until that is ended', async () => {
    const item = { id: 7, emailId: 9, subject: 'Gauge at quay 4', to: ['Ida'], sentAt: '2026-05-04T10:00:00Z' };
    let reminders = [item];
    const page = openPage(
      '/records/account/3',
      answers({
        listReminders: () => ({ reminders }),
        endReminder: () => {
          reminders = [];
          return like(routes.endReminder.response, { id: 7 });
        },
      }),
    );
    const part = within(await screen.findByRole('region', { name: 'No one answered you yet' }));
    part.getByText('Gauge at quay 4');
    expect(page.calls('listReminders')[0]?.query).toEqual({ record: 'account:3' });
    await page.user.click(part.getByRole('button', { name: 'End reminder' }));
    await waitFor(() => expect(screen.queryByRole('region', { name: 'No one answered you yet' })).toBeNull());
  });

  test('say when a record is gone', async () => {
    openPage('/records/account/99', answers({ getRecord: new Refused(404, 'not-found', 'There is no account 99.') }));
    await screen.findByText('There is no account 99.');
  });
});
