/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { mailbox, trial as trialShape, trialSummary } from '@fulvet/contract';
import type { Trial } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const trial = (id: number, more: Partial<Trial>): Trial => like(trialShape, { id, name: `Trial ${id}`, by: 'Hedda', ...more } as never);
const answers = (trials: Trial[], more: Answers = {}): Answers => ({
  ...workspace(),
  listTrials: { trials },
  listMailboxes: { mailboxes: [like(mailbox, { id: 7, address: 'sales@quillmere.example' } as never)] },
  ...more,
});

describe('trials', () => {
  test('say what they would change, how far they are, or why they ended', async () => {
    openPage(
      '/trials',
      answers([
        trial(3, {
          state: 'done',
          isDraft: true,
          summary: like(trialSummary, { emails: 4000, changed: 120 } as never) as Trial['summary'],
        }),
        trial(2, { state: 'running', done: 30, total: 100 }),
        trial(1, {
          state: 'failed',
          message: 'The database was away.',
          since: '2026-02-01T00:00:00.000Z',
          mailboxes: ['sales@quillmere.example'],
        }),
      ]),
    );
    const lines = await within(await screen.findByRole('list', { name: 'Trials' })).findAllByRole('listitem');
    expect(lines[0]!.textContent).toContain('120 of 4,000 emails would change');
    expect(lines[0]!.textContent).toContain('the draft as it is now');
    expect(within(lines[1]!).getByRole('progressbar').getAttribute('aria-valuenow')).toBe('30');
    expect(lines[2]!.textContent).toContain('mail since 2026-02-01, sales@quillmere.example');
    expect(lines[2]!.textContent).toContain('The database was away.');
  });

  test('are begun over a span and a mailbox, and opened', async () => {
    const page = openPage('/trials', answers([], { startTrial: trial(9, { state: 'queued' }), getTrial: trial(9, { state: 'queued' }) }));
    await screen.findByText('No trial yet');
    await page.user.type(screen.getByRole('textbox', { name: /^Name/ }), 'Spring');
    await page.choose(screen.getByRole('combobox', { name: 'Span' }), '90 days');
    await page.choose(screen.getByRole('combobox', { name: 'Mailboxes' }), 'sales@quillmere.example');
    await page.choose(screen.getByRole('combobox', { name: 'Records that mail created' }), 'as if they were not there');
    await page.user.click(screen.getByRole('button', { name: 'Try the draft out' }));
    await waitFor(() => expect(page.address()).toBe('/trials/9'));
    expect(page.calls('startTrial')[0]?.body).toEqual({
      name: 'Spring',
      days: 90,
      mailboxes: ['sales@quillmere.example'],
      withoutMade: true,
    });
  });

  test('that cannot begin say why, and keep what was written', async () => {
    const page = openPage('/trials', answers([], { startTrial: new Refused(409, 'busy', 'A trial runs already. Wait for it.') }));
    await page.user.type(await screen.findByRole('textbox', { name: /^Name/ }), 'Spring{Enter}');
    await screen.findByText('A trial runs already. Wait for it.');
    expect(screen.getByRole<HTMLInputElement>('textbox', { name: /^Name/ }).value).toBe('Spring');
  });
});
