/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { routes } from '@fulvet/contract';
import type { SeriesDetail, SeriesRun } from '@fulvet/contract';
import { beforeEach, describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../../testing/answers';
import { like } from '../../testing/emptyAnswer';
import { openPage, Refused } from '../../testing/openPage';
import { MAY_WRITE, SENDER } from '../../testing/sender';
import { OFFER } from '../../testing/template';

const AT = '2026-05-04T10:00:00Z';
const make = (id: number, name: string, more: Partial<SeriesDetail> = {}): SeriesDetail => ({
  ...like(routes.getSeries.response, { id, name, scope: 'own' }),
  team: null,
  language: '',
  owner: 'Rep',
  isMine: true,
  isRemoved: false,
  stepCount: 1,
  open: 0,
  changedAt: AT,
  revision: 1,
  steps: [{ kind: 'email', waitDays: 0, templateId: 4, text: '', template: 'Offer' }],
  ...more,
});
const runWith = (id: number, name: string, more: Partial<SeriesRun> = {}): SeriesRun => ({
  id,
  seriesId: 1,
  name: 'After a fair',
  to: { name, address: `${name.toLowerCase()}@harbour.example` },
  state: 'waiting',
  atStep: 2,
  stepCount: 3,
  task: null,
  outgoingId: null,
  dueAt: AT,
  asks: true,
  why: null,
  problem: '',
  stoppedByEmail: null,
  startedAt: AT,
  endedAt: null,
  ...more,
});

let kept: SeriesDetail[];
let runs: SeriesRun[];
beforeEach(() => {
  kept = [make(1, 'After a fair'), make(2, 'Welcome', { isMine: false, owner: 'Manager', scope: 'all' })];
  runs = [
    runWith(7, 'Ida', { state: 'to do', task: 'Call her' }),
    runWith(8, 'Tove', { state: 'stopped', why: 'answered', stoppedByEmail: 9, endedAt: AT }),
  ];
});

const open = (path: string) =>
  openPage(path, {
    ...workspace('rep'),
    listSenders: { senders: [SENDER], ...MAY_WRITE },
    listTemplates: { templates: [OFFER] },
    listSeries: () => ({ series: kept }),
    getSeries: ({ params }) => kept.find(({ id }) => id === Number(params.id)) ?? new Refused(404, 'not-found', 'There is no such series.'),
    createSeries: ({ body }) => {
      const content = body as unknown as SeriesDetail;
      const steps = content.steps.map((step) => ({ ...step, template: step.templateId === null ? null : 'Offer' }));
      const made = make(3, content.name, { steps, stepCount: steps.length });
      kept = [...kept, made];
      return made;
    },
    listSeriesRuns: () => ({ runs }),
    stopSeriesRun: ({ params }) => {
      runs = runs.map((run) => (run.id === Number(params.id) ? { ...run, state: 'stopped', why: 'by hand' } : run));
      return runs[0] as SeriesRun;
    },
    goOnWithSeriesRun: ({ params }) => {
      runs = runs.map((run) => (run.id === Number(params.id) ? { ...run, state: 'waiting', task: null } : run));
      return runs[0] as SeriesRun;
    },
  });

describe('the series', () => {
  test('are made of steps; what a step lacks is said beside it', async () => {
    const page = open('/series?series=new');
    await page.user.type(await screen.findByRole('textbox', { name: 'Name' }), 'New customers');
    await page.user.click(screen.getByRole('button', { name: 'Add a task' }));
    await page.user.click(screen.getByRole('button', { name: 'Save series' }));
    expect(await screen.findAllByText(/needs a template, or what is to be done/)).toHaveLength(2);
    expect(page.calls('createSeries')).toEqual([]);
    await page.user.type(screen.getByRole('textbox', { name: 'Task of step 2' }), 'Call them');
    await page.user.click(screen.getByRole('combobox', { name: 'Template of step 1' }));
    await page.user.click(await screen.findByRole('option', { name: 'Offer' }));
    await page.user.click(screen.getByRole('button', { name: 'Save series' }));
    await waitFor(() => expect(page.calls('createSeries')).toHaveLength(1));
    expect(page.calls('createSeries')[0]?.body).toMatchObject({
      name: 'New customers',
      steps: [
        { kind: 'email', waitDays: 0, templateId: 4, text: '' },
        { kind: 'task', waitDays: 3, templateId: null, text: 'Call them' },
      ],
    });
    await screen.findByText('New customers is saved. Where it goes on, it goes on as it began.');
  });

  test('say with whom they go on; a task is done, a series stopped', async () => {
    const page = open('/series?series=1');
    const list = await screen.findByRole('region', { name: 'People in this series' });
    expect(await within(list).findByText('Call her')).toBeTruthy();
    expect(within(list).getByText('Stopped: there was an answer')).toBeTruthy();
    await page.user.click(within(list).getByRole('button', { name: 'Done: Ida' }));
    await within(list).findByText(/^Waits · Step 2 of 3/);
    await page.user.click(within(list).getByRole('button', { name: 'Stop: Ida' }));
    await within(list).findByText('Stopped: you stopped it');
    await screen.findByText('Nothing more is sent to Ida.');
  });

  test('of someone else are kept as a copy', async () => {
    open('/series?series=2');
    expect(await screen.findByText('Manager keeps this series. You can start it, or keep a copy of your own.')).toBeTruthy();
    expect(screen.getByRole('button', { name: 'Keep a copy' })).toBeTruthy();
    expect(screen.queryByRole('button', { name: 'Remove series' })).toBeNull();
  });
});
