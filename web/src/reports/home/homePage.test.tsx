/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { routes } from '@fulvet/contract';
import type { Sample } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, within } from '@testing-library/react';
import { workspace } from '../../testing/answers';
import { like } from '../../testing/emptyAnswer';
import { openPage } from '../../testing/openPage';
import type { Answers } from '../../testing/openPage';

const arrival = like(routes.getArrival.response, {
  since: '2026-05-04T08:00:00Z',
  came: 12,
  byOutcome: { filed: 9, 'kept out': 3 },
  emails: 400,
  records: 30,
});
const answers = (role: 'admin' | 'rep' | 'manager', more: Answers = {}): Answers => ({
  ...workspace(role),
  getArrival: arrival,
  getMailFlow: {
    weeks: [
      { from: '2026-04-27', filed: 5, waiting: 1, unfiled: 0, keptOut: 2 },
      { from: '2026-05-04', filed: 9, waiting: 0, unfiled: 0, keptOut: 3 },
    ],
  },
  ...more,
});

describe('the home page', () => {
  test('shows what came by outcome, each figure with the emails behind it, and the weeks before as a table', async () => {
    const page = openPage('/', answers('rep'));
    const filed = await screen.findByRole('link', { name: /^9 filed/ });
    expect(filed.getAttribute('href')).toBe('/all-mail?outcome=filed&from=2026-05-04');
    const table = await screen.findByRole('table', { name: /by week and outcome/ });
    expect(
      within(table)
        .getAllByRole('columnheader')
        .map((cell) => cell.textContent),
    ).toEqual(['filed', 'waiting', 'unfiled', 'kept out']);
    expect(within(table).getAllByRole('row')).toHaveLength(3);
    await page.user.click(screen.getByRole('button', { name: 'Show as table' }));
    expect(within(table).getByRole('link', { name: '5' }).getAttribute('href')).toBe(
      '/all-mail?outcome=filed&from=2026-04-27&until=2026-05-03',
    );
  });

  test('shows the meetings ahead, each with when and where, its email and its record', async () => {
    const meeting = {
      emailId: 31,
      at: '2026-05-11T08:00:00Z',
      until: '2026-05-11T09:00:00Z',
      summary: 'Site visit',
      location: 'Quay 4',
      record: { kind: 'account' as const, id: 5, name: 'Arundel Shipping' },
    };
    const page = openPage('/', answers('rep', { getArrival: { ...arrival, meetings: [meeting] } }));
    const line = await screen.findByRole('button', { name: /^Site visit/ });
    expect(line.textContent).toMatch(/May 11, 2026.* to .*Quay 4/);
    expect(screen.getByRole('link', { name: 'Arundel Shipping' }).getAttribute('href')).toBe('/records/account/5');
    await page.user.click(line);
    expect(page.address()).toBe('/?decision=31');
  });

  test('names rules that behave unusually, and links to what they took', async () => {
    openPage(
      '/',
      answers('admin', { listUnusualRules: { rules: [{ rule: 'r7', name: 'Press', took: 80, usual: 9, since: '2026-05-01' }] } }),
    );
    const line = await screen.findByRole('link', { name: /Press/ });
    expect(line.textContent).toContain('80 emails in 7 days; usually about 9');
    expect(line.getAttribute('href')).toBe('/all-mail?applied=r7&from=2026-05-01');
  });

  test('offers a sample world to an empty workspace, and says what stays when it is removed', async () => {
    let state: Sample = { state: 'possible', step: null };
    const page = openPage(
      '/',
      answers('admin', {
        getArrival: () => ({ ...arrival, emails: state.state === 'loaded' ? 23 : 0, records: 0 }),
        getSample: () => state,
        loadSample: () => {
          state = { state: 'loaded', step: 4 };
          return { state: 'loading', step: 4, undo: 4 };
        },
        undo: () => {
          state = { state: 'impossible', step: null };
          return { changed: 30, kept: [{ kind: 'account', id: 3, name: 'Tessaly Sea Farms', because: 'it was changed since' }] };
        },
      }),
    );
    await page.user.click(await screen.findByRole('button', { name: 'Load a sample world' }));
    await page.user.click(await screen.findByRole('button', { name: 'Remove the sample world' }));
    await screen.findByText('The sample world is removed, but for what was changed since: Tessaly Sea Farms.');
    expect(page.calls('undo')[0]?.params).toEqual({ id: '4' });
    expect(screen.queryByRole('region', { name: 'Sample world' })).toBeNull();
  });

  test('keeps the order of the work in sight until it is done or hidden', async () => {
    window.localStorage.clear();
    const page = openPage('/', answers('admin'));
    const setUp = within(await screen.findByRole('region', { name: 'Set-up' }));
    expect(setUp.getByText(/^Set-up: \d of 7 steps done$/)).toBeTruthy();
    await page.user.click(setUp.getByRole('button', { name: 'Show all steps' }));
    expect(setUp.getAllByRole('listitem')).toHaveLength(7);
    expect(setUp.getByRole('link', { name: /Import your records \(done\)/ })).toBeTruthy();
    await page.user.click(setUp.getByRole('button', { name: 'Hide this list' }));
    expect(screen.queryByRole('region', { name: 'Set-up' })).toBeNull();
  });

  test('shows a manager quiet deals and unanswered customers, and no rules', async () => {
    const page = openPage('/', answers('manager'));
    await screen.findByRole('table', { name: /by week and outcome/ });
    expect(page.calls('listRecords').map(({ params, query }) => [params.kind, query.quiet, query.unanswered])).toEqual(
      expect.arrayContaining([
        ['deal', '30', undefined],
        ['account', undefined, 'yes'],
      ]),
    );
    expect(page.calls('listUnusualRules')).toEqual([]);
  });
});
