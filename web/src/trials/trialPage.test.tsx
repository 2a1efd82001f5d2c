/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import type { Answer, Trial, TrialRow, TrialSummary } from '@fulvet/contract';
import { docketEntry, trial as trialShape, trialRow } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { emailRow, workspace } from '../testing/answers';
import { AT, like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const summary: TrialSummary = {
  emails: 3659,
  byDirection: {},
  changed: 51,
  steps: { keepOut: { passed: 3000, 'kept out': 659 }, match: { matched: 2700, waits: 40 } },
  matrix: { filed: { filed: 2600, 'kept out': 17 }, unfiled: { filed: 34 }, 'kept out': { 'kept out': 642 } },
  created: [
    { kind: 'contact', name: 'Una Hartwig', via: 'una@quay-works.example', confidence: 0.6, like: 'Una Hartwig' },
    { kind: 'account', name: 'Quay Works', via: 'quay-works.example', confidence: 1, like: null },
  ],
  createdCount: 2,
  won: { contact: 30, deal: 4 },
  lost: { account: 17 },
  records: [{ key: 'deal:21', name: 'Tide gauges', won: 4, lost: 1 }],
  newlySeen: 3,
  noLongerSeen: 0,
  waiting: 12,
  byRule: {},
};
const trial = (more: Partial<Trial> = {}): Trial =>
  like(trialShape, { id: 8, name: 'Trial of 4 May', state: 'done', done: 3659, total: 3659, isDraft: true, at: AT, summary, ...more });
const row: TrialRow = like(trialRow, {
  email: emailRow(70, 'Talented people'),
  outcomeBefore: 'filed',
  outcomeAfter: 'kept out',
  visibilityBefore: 'everyone',
  visibilityAfter: 'owner',
  step: 'keepOut',
  won: [],
  lost: ['Harbour Oriel'],
});
const { getDraft: draft } = workspace() as { getDraft: Answer<'getDraft'> };
const hidden: TrialRow = { ...row, email: { ...emailRow(71, ''), content: null } };

const answers = (more: Answers = {}): Answers => ({
  ...workspace(),
  getTrial: trial(),
  listTrials: { trials: [trial(), trial({ id: 5, name: 'The one before', summary: { ...summary, changed: 40, waiting: 12 } })] },
  listTrialRows: { rows: [row, hidden], total: 210 },
  getTrialDocket: {
    before: [like(docketEntry, { step: 'keepOut', verdict: 'passed' })],
    after: [like(docketEntry, { step: 'keepOut', verdict: 'kept out', because: ['talent.example is on the list.'] })],
    step: 'keepOut',
  },
  ...more,
});

describe('the page of a trial', () => {
  test('says what would change in numbers, each of which opens the emails behind it', async () => {
    const page = openPage('/trials/8', answers());
    expect((await screen.findByText(/^Of .*would change/)).textContent).toContain('Of 3,659 emails, 51 would change');
    expect(screen.getByText(/34 filings won|filings won/).textContent).toContain('17');
    await page.user.click(screen.getByRole('button', { name: '17 from filed to kept out' }));
    await waitFor(() => expect(page.calls('listTrialRows').at(-1)?.query).toMatchObject({ before: 'filed', after: 'kept out' }));
    expect(page.address()).toBe('/trials/8?before=filed&after=kept+out');
    await page.user.click(screen.getByRole('button', { name: /would newly be seen by colleagues/ }));
    await waitFor(() => expect(page.calls('listTrialRows').at(-1)?.query).toMatchObject({ seen: 'newly' }));
    expect(page.calls('listTrialRows').at(-1)?.query).not.toHaveProperty('before');
    await page.user.click(screen.getByRole('button', { name: /Tide gauges/ }));
    await waitFor(() => expect(page.calls('listTrialRows').at(-1)?.query).toMatchObject({ record: 'deal:21' }));
    await page.user.click(screen.getByRole('button', { name: 'Show all' }));
    await waitFor(() => expect(page.address()).toBe('/trials/8'));
  });

  test('lets nothing be opened behind what stays as it is, or is nobody', async () => {
    openPage('/trials/8', answers());
    expect((await screen.findByRole<HTMLButtonElement>('button', { name: '2600 from filed to filed' })).disabled).toBe(true);
    expect(screen.getByRole<HTMLButtonElement>('button', { name: /would no longer be seen by colleagues/ }).disabled).toBe(true);
  });

  test('shows both dockets of an email side by side, the step that differs marked', async () => {
    const page = openPage('/trials/8', answers());
    await page.user.click(await screen.findByRole('button', { name: /Talented people/ }));
    const differing = (await screen.findByText('differs here')).closest('tr')!;
    expect(
      within(differing)
        .getAllByRole('cell')
        .map((element) => element.textContent),
    ).toEqual(['passed', 'kept outtalent.example is on the list.']);
    expect(screen.getAllByText('not reached')).toHaveLength(8);
    expect(screen.getByText('The newest 2 of 210.')).toBeTruthy();
  });

  test('tells who may not read an email that it changes, and shows no docket of it', async () => {
    const page = openPage('/trials/8', answers());
    await page.user.click(await screen.findByRole('button', { name: /An email with harbour.example; not yours to read/ }));
    await screen.findByText('Its decisions name people and are shown only to those who may read the email.');
    expect(page.calls('getTrialDocket')).toEqual([]);
  });

  test('is compared with an earlier one', async () => {
    const page = openPage('/trials/8', answers());
    await page.choose(await screen.findByRole('combobox'), 'The one before');
    await screen.findByText('(+11 against the other)');
    expect(screen.getByText('(as many as the other)')).toBeTruthy();
  });

  test('names records that would be created, with how sure and what they are like', async () => {
    openPage('/trials/8', answers());
    await screen.findByText('2 records would be created');
    expect(screen.getByText('name 60 % sure')).toBeTruthy();
    expect(screen.getByText('like Una Hartwig')).toBeTruthy();
  });

  test('of the usual kind says that what mail created stays, and tries the same without it at a click', async () => {
    const page = openPage('/trials/8', answers({ startTrial: trial({ id: 9, name: 'Without', withoutMade: true }) }));
    await screen.findByText('; those created before stay');
    await page.user.click(screen.getByRole('button', { name: 'Try it without them' }));
    await waitFor(() => expect(page.address()).toBe('/trials/9'));
    expect(page.calls('startTrial')[0]?.body).toEqual({
      name: 'Trial of 4 May, without what mail created',
      days: null,
      mailboxes: [],
      withoutMade: true,
    });
  });

  test('that takes what mail created as not there names what would not be created, each opening the emails it would lose', async () => {
    const made = { withoutMade: true, made: { again: 53, notAgain: 31 } };
    const records = [{ key: 'lead:4', name: 'Cold Call', via: 'cold@chill.example', emails: 2 }];
    const page = openPage('/trials/8', answers({ getTrial: trial(made), listTrialMade: { records, total: 31 } }));
    await screen.findByText(/Decided as if the records that mail created/);
    expect(screen.getByText(/of the 84 records that mail created would not be created/).textContent).toMatch(/^31/);
    expect(screen.queryByRole('button', { name: 'Try it without them' })).toBeNull();
    await page.user.click(await screen.findByRole('button', { name: /Cold Call cold@chill.example 2 emails under it/ }));
    await waitFor(() => expect(page.calls('listTrialRows').at(-1)?.query).toMatchObject({ record: 'lead:4' }));
    expect(screen.getByText('Those with the most emails, 1 of 31.')).toBeTruthy();
  });

  const changed = { ...draft, revision: 4, differences: ['Keep out: a new rule'] };

  test('leads on: the draft that was tried goes live, or into a pilot, from here', async () => {
    const page = openPage('/trials/8', answers({ getDraft: changed }));
    const next = within(await screen.findByRole('region', { name: 'Next step' }));
    expect(next.getByText('The draft has 1 change, and is still what was tried here.')).toBeTruthy();
    expect(next.getByRole('link', { name: 'Back to the draft' }).getAttribute('href')).toBe('/versions');
    await page.user.click(next.getByRole('button', { name: 'Pilot first …' }));
    expect((await screen.findByRole<HTMLInputElement>('radio', { name: /First a pilot/ })).checked).toBe(true);
    await page.user.click(screen.getByRole('button', { name: 'Cancel' }));
    await page.user.click(next.getByRole('button', { name: 'Put live …' }));
    expect((await screen.findByRole<HTMLInputElement>('radio', { name: 'Everyone' })).checked).toBe(true);
  });

  test('is run again, of the same mail, when the draft has been changed since', async () => {
    const old = trial({ isDraft: false, since: '2026-04-04T09:30:00Z', at: '2026-05-04T09:30:00Z', mailboxes: ['ada@quillmere.example'] });
    const page = openPage('/trials/8', answers({ getTrial: old, getDraft: changed, startTrial: trial({ id: 9 }) }));
    const next = within(await screen.findByRole('region', { name: 'Next step' }));
    expect(next.getByText('The draft has been changed since this trial.')).toBeTruthy();
    expect(next.queryByRole('button', { name: 'Put live …' })).toBeNull();
    await page.user.click(next.getByRole('button', { name: 'Run again' }));
    await waitFor(() => expect(page.address()).toBe('/trials/9'));
    expect(page.calls('startTrial')[0]?.body).toEqual({ days: 30, mailboxes: ['ada@quillmere.example'], withoutMade: false });
  });

  test('shows how far it is, can be cancelled, and changes when it is done', async () => {
    const page = openPage(
      '/trials/8',
      answers({ getTrial: trial({ state: 'running', done: 1200, summary: null }), cancelTrial: trial({ state: 'cancelled' }) }),
    );
    await screen.findByText('1,200 of 3,659 emails decided');
    expect(screen.getByRole('progressbar').getAttribute('aria-valuenow')).toBe('33');
    await page.user.click(screen.getByRole('button', { name: 'Cancel' }));
    page.answer({ getTrial: trial({ state: 'cancelled', summary: null }) });
    await screen.findByText('Cancelled. Nothing was changed.');
    expect(page.calls('cancelTrial')).toHaveLength(1);
  });

  test('says why it failed', async () => {
    openPage('/trials/8', answers({ getTrial: trial({ state: 'failed', summary: null, message: 'The disk is full.' }) }));
    await screen.findByText('The disk is full.');
  });

  test('that is gone is said to be', async () => {
    openPage('/trials/8', answers({ getTrial: new Refused(404, 'not-found', 'There is no trial 8.') }));
    await screen.findByText('There is no trial 8.');
  });
});
