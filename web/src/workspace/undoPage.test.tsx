/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { routes, undoStep } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const steps = [
  like(undoStep, { id: 7, kind: 'recordImport', summary: 'Imported 3 contacts from a file' }),
  like(undoStep, { id: 6, kind: 'edit', summary: 'Changed Ida Brandt: title', undone: true }),
];
const answers = (more: Answers = {}): Answers => ({ ...workspace(), listUndo: { steps }, ...more });

describe('what can be undone', () => {
  test('is listed with what undoing does; what stays is named', async () => {
    const kept = [{ kind: 'contact' as const, id: 3, name: 'Jo Lund', because: 'it was changed since' }];
    const page = openPage('/undo', answers({ undo: { changed: 2, kept } }));
    await screen.findByText(/removes what it created and puts back what it changed/);
    expect(screen.queryByRole('button', { name: 'Undo: Changed Ida Brandt: title' })).toBeNull();
    await page.user.click(screen.getByRole('button', { name: 'Undo: Imported 3 contacts from a file' }));
    await screen.findByText('Undone, except 1 record: Jo Lund (it was changed since).');
    expect(page.calls('undo')[0]?.params).toEqual({ id: '7' });
  });

  test('says why it cannot be', async () => {
    const page = openPage(
      '/undo',
      answers({ undo: new Refused(409, 'changed-since', 'It was changed since: title. Nothing was undone.') }),
    );
    await page.user.click(await screen.findByRole('button', { name: /^Undo: Imported/ }));
    await screen.findByText('It was changed since: title. Nothing was undone.');
  });

  test('asks first where much is taken away', async () => {
    const summary = 'Imported 1,200 emails into rep@quillmere.example';
    const page = openPage(
      '/undo',
      answers({ listUndo: { steps: [like(undoStep, { id: 8, kind: 'mailImport', summary })] }, undo: { changed: 1200, kept: [] } }),
    );
    await page.user.click(await screen.findByRole('button', { name: `Undo: ${summary}` }));
    await page.user.click(await screen.findByRole('button', { name: 'Cancel' }));
    expect(page.calls('undo')).toEqual([]);
    await page.user.click(await screen.findByRole('button', { name: `Undo: ${summary}` }));
    await page.user.click(await screen.findByRole('button', { name: 'Undo' }));
    await screen.findByText('Undone.');
    expect(page.calls('undo')[0]?.params).toEqual({ id: '8' });
  });

  test('of an import stands on its page, too, and says which emails stay', async () => {
    const run = like(routes.getImport.response, { id: 4, state: 'done', phase: 'done', mailbox: 'rep@quillmere.example', undo: 9 });
    const kept = [{ kind: 'email' as const, id: 3, name: 'Email 3', because: 'it was filed by hand since' }];
    const page = openPage('/mailboxes/imports/4', answers({ getImport: run, undo: { changed: 2, kept } }));
    await page.user.click(await screen.findByRole('button', { name: 'Undo this import' }));
    await screen.findByText(/Nothing changes in the mailbox itself/);
    await page.user.click(screen.getByRole('button', { name: 'Undo' }));
    await screen.findByText(/^Undone, except 1 email/);
    expect(page.calls('undo')[0]?.params).toEqual({ id: '9' });
  });

  test('may be nothing yet', async () => {
    openPage('/undo', answers({ listUndo: { steps: [] } }));
    await screen.findByText('Nothing to undo yet');
  });
});
