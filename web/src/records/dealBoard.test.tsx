/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { recordDetail, recordRow } from '@fulvet/contract';
import type { RecordRow } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const deal = (id: number, name: string, stage: string, amount: number | null, currency = 'EUR'): RecordRow =>
  like(recordRow, { id, kind: 'deal', name, stage, amount, currency } as never);
const deals = [deal(1, 'Tide gauges', 'Enquiry', 40_000), deal(2, 'Buoys', 'Enquiry', 9000), deal(3, 'Staffs', 'Old stage', null)];
const answers = (more: Answers = {}): Answers => ({
  ...workspace('rep'),
  getRecordSetup: {
    ownFields: { account: [], contact: [], lead: [], deal: [], own: [] },
    kinds: [],
    stages: [
      { id: 1, name: 'Enquiry', open: true },
      { id: 2, name: 'Order', open: true },
      { id: 3, name: 'Won', open: false },
    ],
  },
  listRecords: { records: deals, total: deals.length },
  ...more,
});

describe('the board of deals', () => {
  test('has a column for each stage, and for those that deals stand at beside them', async () => {
    openPage('/records/deal?as=board', answers());
    const enquiry = within(await screen.findByRole('region', { name: 'Enquiry' }));
    expect(enquiry.getByText(/^2 deals/).textContent).toBe('2 deals · 49,000 EUR');
    expect(screen.getAllByRole('region').map((column) => column.getAttribute('aria-label'))).toEqual(
      expect.arrayContaining(['Old stage', 'Enquiry', 'Order', 'Won']),
    );
    expect(within(screen.getByRole('region', { name: 'Won' })).getByText('closed')).toBeTruthy();
  });

  test('moves a deal by Alt and an arrow, and says so with a way back', async () => {
    const moved = { ...like(recordDetail, { id: 1 } as never), undo: 5 };
    const page = openPage('/records/deal?as=board', answers({ editRecord: moved as never, undo: { changed: 0, notes: [] } as never }));
    (await screen.findByRole('link', { name: /^Tide gauges/ })).focus();
    await page.user.keyboard('{Alt>}{ArrowRight}{/Alt}');
    await waitFor(() => expect(page.calls('editRecord')[0]?.body).toEqual({ values: { stage: 'Order' } }));
    await screen.findByText('Tide gauges is at Order.');
    expect(screen.getByRole('button', { name: 'Undo' })).toBeTruthy();
  });

  test('puts a deal back where it was, where it cannot be saved', async () => {
    const page = openPage(
      '/records/deal?as=board',
      answers({ editRecord: new Refused(403, 'not-yours', 'This deal is not yours to change.') }),
    );
    (await screen.findByRole('link', { name: /^Tide gauges/ })).focus();
    await page.user.keyboard('{Alt>}{ArrowRight}{/Alt}');
    await screen.findByText('This deal is not yours to change.');
    await waitFor(() => expect(within(screen.getByRole('region', { name: 'Enquiry' })).getByText('Tide gauges')).toBeTruthy());
  });

  test('moves nothing for those who only look', async () => {
    const page = openPage('/records/deal?as=board', { ...answers(), getSession: workspace('viewer').getSession } as Answers);
    (await screen.findByRole('link', { name: /^Tide gauges/ })).focus();
    await page.user.keyboard('{Alt>}{ArrowRight}{/Alt}');
    expect(page.calls('editRecord')).toEqual([]);
  });
});
