/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { recordsPreview } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const TEXT = 'Company;domains\nHarbour Oriel;harbour.example\n';
const preview = like(recordsPreview, {
  columns: [
    { header: 'Company', field: 'name' },
    { header: 'domains', field: 'domains' },
  ],
  fields: [
    { name: 'name', required: true, hint: '' },
    { name: 'domains', required: false, hint: '' },
  ],
  sample: [{ line: 2, action: 'create', values: { name: 'Harbour Oriel', domains: 'harbour.example' } }],
  counts: { create: 2, update: 1, same: 4, bad: 3 },
  bad: [{ line: 7, reason: 'The name is missing.' }],
  warnings: [{ line: 2, reason: 'The account “Harbour”, which mail to its domain had created, becomes this one.' }],
  done: false,
});
const answers = (more: Answers = {}): Answers => ({ ...workspace(), previewRecords: preview, ...more });
const file = (name = 'accounts.csv', text = TEXT): File => new File([text], name, { type: 'text/csv' });

describe('the import of records', () => {
  test('says what it would do, what it does not take and why, and what is worth knowing, before anything happens', async () => {
    const page = openPage('/records/account/import', answers());
    await page.user.upload(await screen.findByLabelText('File of records'), file());
    const told = 'Would do: 2 records created, 1 updated, 4 the same, 3 lines not taken.';
    await waitFor(() => expect(screen.getByRole('status').textContent).toBe(told));
    const bad = within(screen.getByRole('region', { name: 'Lines that are skipped' }));
    expect(bad.getByText('The name is missing.')).toBeTruthy();
    expect(bad.getByText('and 2 more')).toBeTruthy();
    expect(screen.getByRole('region', { name: 'Lines with a remark' }).textContent).toContain('line 2The account “Harbour”');
    expect(page.calls('previewRecords')[0]?.body).toEqual({ format: 'csv', text: TEXT, mapping: {} });
    expect(page.calls('importRecords')).toHaveLength(0);
  });

  test('is confirmed by a button that says how many, and then leads to them', async () => {
    const page = openPage(
      '/records/account/import',
      answers({ importRecords: { ...preview, done: true, warnings: [], bad: [], undo: 4 } }),
    );
    await page.user.upload(await screen.findByLabelText('File of records'), file());
    await page.user.click(await screen.findByRole('button', { name: 'Import 3 accounts' }));
    await screen.findByText('2 created, 1 updated. Their past mail is being filed.');
    expect((await screen.findByRole('status')).textContent).toContain('Done: 2 records created');
    expect(screen.getByRole('link', { name: 'To the accounts' }).getAttribute('href')).toBe('/records/account');
    expect(screen.queryByRole('button', { name: /^Import/ })).toBeNull();
  });

  test('columns are mapped by hand, and looked at anew', async () => {
    const page = openPage('/records/account/import', answers());
    await page.user.upload(await screen.findByLabelText('File of records'), file());
    const [first] = await screen.findAllByRole('combobox');
    await page.choose(first!, 'domains');
    await waitFor(() => expect(page.calls('previewRecords').at(-1)?.body).toMatchObject({ mapping: { Company: 'domains' } }));
  });

  test('a vCard is known by what it says, and a file that cannot be read says why', async () => {
    const wrong = new Refused(422, 'bad-file', 'The file has no line of headings.');
    const page = openPage('/records/contact/import', answers({ previewRecords: wrong }));
    await page.user.upload(await screen.findByLabelText('File of records'), file('people.txt', 'BEGIN:VCARD\r\nFN:Ida\r\nEND:VCARD\r\n'));
    await screen.findByText('The file has no line of headings.');
    expect(page.calls('previewRecords')[0]?.body).toMatchObject({ format: 'vcard' });
    expect(screen.queryByRole('button', { name: /^Import/ })).toBeNull();
  });

  test('nothing to do is nothing to confirm', async () => {
    const page = openPage(
      '/records/deal/import',
      answers({ previewRecords: { ...preview, counts: { create: 0, update: 0, same: 9, bad: 0 } } }),
    );
    await page.user.upload(await screen.findByLabelText('File of records'), file('deals.csv'));
    expect(await screen.findByRole('button', { name: 'Import 0 deals' })).toHaveProperty('disabled', true);
  });
});
