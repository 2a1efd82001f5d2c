/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { historyPage, recordDetail, recordRow } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { like } from '../testing/emptyAnswer';
import type { Answers, OpenPage } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const field = (key: string, value: string, input = 'text') => ({
  key,
  label: key,
  input,
  value,
  shown: value,
  choices: [],
  link: null,
  mono: false,
});
const account = like(recordDetail, { kind: 'account', id: 3, name: 'Harbour Oriel', nameConfidence: 1 } as never);
const contact = like(recordDetail, {
  kind: 'contact',
  id: 4,
  name: 'Ida Brandt',
  nameConfidence: 1,
  fields: [field('account', 'Harbour Oriel', 'account'), field('emails', 'ida@harbour.example', 'list')],
} as never);
const nothing = { records: [], emails: [], emailTotal: 0, isMore: false };
const answers = (more: Answers): Answers => ({ ...workspace('rep'), getHistory: like(historyPage), search: nothing, ...more });

async function typed({ user }: OpenPage, button: string, text: string): Promise<void> {
  await user.click(await screen.findByRole('button', { name: button }));
  await user.keyboard(text);
}

describe('what is typed on a record', () => {
  test('creates a person of the account, by address', async () => {
    const page = openPage('/records/account/3', answers({ getRecord: account, createRecord: { id: 9, undo: 5 } }));
    await typed(page, 'Add a person …', 'kim.aster@harbour.example');
    await page.user.click(await screen.findByRole('option', { name: 'Create the contact kim.aster@harbour.example' }));
    await screen.findByText('Created Kim Aster.');
    expect(page.calls('createRecord')[0]).toMatchObject({
      params: { kind: 'contact' },
      body: { values: { name: 'Kim Aster', emails: 'kim.aster@harbour.example', account: 'Harbour Oriel' } },
    });
  });

  test('takes those who are there, and moves them to the account', async () => {
    const found = { ...nothing, records: [{ kind: 'contact' as const, id: 6, name: 'Harbour Pilot', detail: '' }] };
    const page = openPage('/records/account/3', answers({ getRecord: account, search: found, editRecord: { ...contact, undo: 4 } }));
    await typed(page, 'Add a person …', 'harbour');
    await page.user.click(await screen.findByRole('option', { name: /Harbour Pilot/ }));
    await screen.findByText('Added Harbour Pilot.');
    expect(page.calls('editRecord')[0]).toMatchObject({
      params: { kind: 'contact', id: '6' },
      body: { values: { account: 'Harbour Oriel' } },
    });
  });

  test('creates a deal with the person and their account; an address makes no deal', async () => {
    const page = openPage('/records/contact/4', answers({ getRecord: contact, createRecord: { id: 9, undo: 5 } }));
    await typed(page, 'Add to a deal …', 'Tide gauges');
    await page.user.click(await screen.findByRole('option', { name: 'Create the deal Tide gauges' }));
    await waitFor(() =>
      expect(page.calls('createRecord')[0]?.body).toEqual({
        values: { name: 'Tide gauges', account: 'Harbour Oriel', people: 'ida@harbour.example' },
      }),
    );
    await typed(page, 'Add to a deal …', 'kim@reef.example');
    await screen.findByText(/No record/);
    expect(screen.queryByRole('option')).toBeNull();
  });

  test('puts a new person at the account whose domain they write from', async () => {
    const deal = like(recordDetail, { kind: 'deal', id: 21, name: 'Tide gauges', people: [], nameConfidence: 1 } as never);
    const reef = like(recordRow, { id: 8, kind: 'account', name: 'Reef North', addresses: ['reef.example'] } as never);
    const page = openPage(
      '/records/deal/21',
      answers({
        getRecord: deal,
        listRecords: { records: [reef], total: 1 },
        createRecord: { id: 9, undo: 5 },
        setDealPeople: { ...deal, undo: 6 },
      }),
    );
    const people = within(await screen.findByRole('region', { name: 'People' }));
    await page.user.click(people.getByRole('button', { name: 'Add a person …' }));
    await page.user.keyboard('Kim Aster <kim@reef.example>');
    await page.user.click(await screen.findByRole('option', { name: 'Create the contact kim@reef.example' }));
    await waitFor(() => expect(page.calls('setDealPeople')[0]?.body).toEqual({ people: [{ kind: 'contact', id: 9, role: '' }] }));
    expect(page.calls('createRecord')[0]?.body).toEqual({
      values: { account: 'Reef North', name: 'Kim Aster', emails: 'kim@reef.example' },
    });
  });

  test('says what the server has against it', async () => {
    const refused = new Refused(409, 'taken', 'kim@harbour.example belongs to the contact Kim Aster already.');
    const page = openPage('/records/account/3', answers({ getRecord: account, createRecord: refused }));
    await typed(page, 'Add a person …', 'kim@harbour.example');
    await page.user.click(await screen.findByRole('option', { name: /Create the contact/ }));
    await screen.findByText(/belongs to the contact Kim Aster already/);
  });
});
