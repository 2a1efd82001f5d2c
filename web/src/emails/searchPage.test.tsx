/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import type { SearchResult } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { emailRow, workspace } from '../testing/answers';
import type { Answers } from '../testing/openPage';
import { openPage } from '../testing/openPage';

const found: SearchResult = {
  records: [
    { kind: 'account', id: 3, name: 'Harbour Oriel', detail: 'harbour.example' },
    { kind: 'contact', id: 4, name: 'Ida Brandt', detail: 'ida@harbour.example' },
  ],
  emails: [emailRow(7, 'Tide gauges for the quay')],
  emailTotal: 12,
  isMore: false,
};
const answers = (result: SearchResult): Answers => ({ ...workspace('rep'), search: result });

describe('searching', () => {
  test('asks from two letters on, and shows records before emails', async () => {
    const page = openPage('/search', answers(found));
    const field = await screen.findByRole('textbox', { name: 'Words to search for' });
    expect(document.activeElement).toBe(field);
    await page.user.type(field, 'h');
    expect(screen.getByText('Search everything')).toBeTruthy();
    expect(page.calls('search')).toEqual([]);
    await page.user.type(field, 'arbour');
    const records = within(await screen.findByRole('list', { name: 'Records' }));
    expect(records.getAllByRole('link').map((link) => link.getAttribute('href'))).toEqual(['/records/account/3', '/records/contact/4']);
    expect(screen.getByRole('heading', { name: /^12 emails/ })).toBeTruthy();
    expect(screen.getByRole('link', { name: 'Show all of them' }).getAttribute('href')).toBe('/all-mail?text=harbour');
    expect(page.address()).toBe('/search?text=harbour');
  });

  test('opens the decision on an email by Enter', async () => {
    const page = openPage('/search?text=tide', answers(found));
    (await screen.findByRole('listitem', { name: 'Decision on Tide gauges for the quay' })).focus();
    await page.user.keyboard('{Enter}');
    await waitFor(() => expect(page.address()).toContain('decision=7'));
  });

  test('says that there are more than were counted, or none', async () => {
    const page = openPage('/search?text=tide', answers({ ...found, emailTotal: 1000, isMore: true }));
    await screen.findByRole('heading', { name: /^1,000\+ emails/ });
    page.answer({ search: { records: [], emails: [], emailTotal: 0, isMore: false } });
    await page.user.type(screen.getByRole('textbox', { name: 'Words to search for' }), 'x');
    await screen.findByText('Nothing found');
  });
});

describe('the list that finds everything', () => {
  test('takes in what is typed before it is there', async () => {
    const page = openPage('/', answers(found));
    await screen.findByRole('navigation', { name: 'Steps' });
    await page.user.keyboard('{Control>}k{/Control}harx{Backspace}bour ?');
    const field = await screen.findByRole('combobox', { name: 'Find people, companies, deals, emails and pages' });
    await waitFor(() => expect((field as HTMLInputElement).value).toBe('harbour ?'));
    await page.user.keyboard('!');
    await waitFor(() => expect((field as HTMLInputElement).value).toBe('harbour ?!'));
    await page.user.keyboard('{Escape}');
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
  });

  test('opens by its keys, and leads to a record by Enter', async () => {
    const page = openPage('/', answers(found));
    await screen.findByRole('navigation', { name: 'Steps' });
    await page.user.keyboard('{Control>}k{/Control}');
    const field = await screen.findByRole('combobox', { name: 'Find people, companies, deals, emails and pages' });
    await page.user.type(field, 'harbour');
    await screen.findByRole('option', { name: /^Harbour Oriel/ });
    expect(screen.getByText('12 emails in all')).toBeTruthy();
    await page.user.keyboard('{Enter}');
    await waitFor(() => expect(page.address()).toBe('/records/account/3'));
    expect(screen.queryByRole('dialog')).toBeNull();
  });

  test('finds the pages that the role has, and is left by Escape', async () => {
    const page = openPage('/', answers({ records: [], emails: [], emailTotal: 0, isMore: false }));
    await screen.findByRole('navigation', { name: 'Steps' });
    await page.user.keyboard('{Control>}k{/Control}');
    const field = await screen.findByRole('combobox', { name: 'Find people, companies, deals, emails and pages' });
    await page.user.type(field, 'tuning');
    await screen.findByText('Nothing found. Try fewer or other words.');
    await page.user.clear(field);
    await page.user.type(field, 'my m');
    await screen.findByRole('option', { name: 'My mail' });
    await page.user.keyboard('{Escape}');
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
    expect(page.address()).toBe('/');
  });
});
