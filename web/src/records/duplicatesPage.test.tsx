/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { merge as mergeShape } from '@fulvet/contract';
import type { DuplicatePair } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { AT, like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const pair: DuplicatePair = {
  kind: 'contact',
  one: {
    id: 3,
    name: 'Una Hartwig',
    values: { emails: 'una@quay.example', title: 'Harbour Master', phone: '' },
    emails: 4,
    createdByFulvet: true,
  },
  other: {
    id: 9,
    name: 'Hartwig, Una',
    values: { emails: 'una.h@freemail.example', title: 'Captain', account: 'Quay Works' },
    emails: 20,
    createdByFulvet: false,
  },
  likelihood: 0.93,
  because: [
    { text: 'the same name', weight: 12 },
    { text: 'other companies', weight: -2 },
  ],
};
const labels = { emails: 'Addresses', title: 'Title', phone: 'Phones', account: 'Account' };
const done = like(mergeShape, { id: 5, keptName: 'Hartwig, Una', goneName: 'Una Hartwig', by: 'Hedda Quillmere', at: AT });
const answers = (more: Answers = {}): Answers => ({
  ...workspace(),
  listDuplicates: { pairs: [pair], total: 1, compared: 334, labels },
  mergeRecords: done,
  ...more,
});

describe('duplicates', () => {
  test('stand side by side with how likely they are one, and what speaks against it', async () => {
    openPage('/duplicates/contact', answers());
    await screen.findByText('1 pair of 334 contacts may be the same. The likeliest come first.');
    expect(screen.getByText('93 %')).toBeTruthy();
    expect(screen.getByText(/but other companies/)).toBeTruthy();
    // A field that neither has is not shown.
    expect(screen.queryByText('Phones')).toBeNull();
  });

  test('are merged into the one with more mail, field by field, and separated again', async () => {
    const page = openPage('/duplicates/contact', answers({ undoMerge: { ...done, undone: true } }));
    const title = (await screen.findByText('Title')).closest('tr')!;
    expect(
      within(title)
        .getAllByRole<HTMLInputElement>('radio')
        .map((element) => element.checked),
    ).toEqual([false, true]);
    await page.user.click(within(title).getAllByRole('radio')[0]!);
    await page.user.click(screen.getByRole('button', { name: 'Merge into Hartwig, Una' }));
    await screen.findByText(/Una Hartwig was merged into Hartwig, Una/);
    expect(page.calls('mergeRecords')[0]).toMatchObject({ params: { kind: 'contact', id: '9' }, body: { gone: 3, take: ['title'] } });
    await screen.findByText('No duplicates found');
    await page.user.click(screen.getByRole('button', { name: 'Undo' }));
    await screen.findByText('Undone. They are two records again.');
    await screen.findByRole('button', { name: 'Merge into Hartwig, Una' });
  });

  test('keep what the chosen one lacks', async () => {
    const page = openPage('/duplicates/contact', answers());
    await page.user.click((await screen.findAllByRole('radio', { name: /Una Hartwig/ }))[0]!);
    await page.user.click(screen.getByRole('button', { name: 'Merge into Una Hartwig' }));
    await waitFor(() => expect(page.calls('mergeRecords')[0]).toMatchObject({ params: { id: '3' }, body: { gone: 9, take: ['account'] } }));
  });

  test('that are not one are not proposed again', async () => {
    const page = openPage('/duplicates/contact', answers({ refuseDuplicate: {} }));
    await page.user.click(await screen.findByRole('button', { name: 'Not the same' }));
    await screen.findByText('They stay separate and are not proposed again.');
    expect(page.calls('refuseDuplicate')[0]?.body).toEqual({ one: 3, other: 9 });
  });

  test('stay where the server refuses, and say why', async () => {
    const page = openPage(
      '/duplicates/contact',
      answers({ mergeRecords: new Refused(409, 'changed', 'One of them was changed meanwhile. Look again.') }),
    );
    await page.user.click(await screen.findByRole('button', { name: 'Merge into Hartwig, Una' }));
    await screen.findByText('One of them was changed meanwhile. Look again.');
    expect(screen.getByRole('button', { name: 'Not the same' })).toBeTruthy();
  });

  test('that were merged before can be parted, once', async () => {
    const page = openPage(
      '/duplicates/contact',
      answers({
        listDuplicates: { pairs: [], total: 0, compared: 334, labels },
        listMerges: { merges: [done, { ...done, id: 4, undone: true }] },
        undoMerge: new Refused(409, 'undone', 'They were parted already.'),
      }),
    );
    await screen.findByText('334 contacts compared.');
    await screen.findByText('separated again');
    await page.user.click(screen.getByRole('button', { name: 'Separate them again' }));
    await screen.findByText('They were parted already.');
  });
});
