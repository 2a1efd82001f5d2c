import { z } from 'zod';
import { idParam } from '../base/params';
import type { RouteShape } from '../base/route';
import { EDITORS } from '../base/route';
import { email } from '../base/values';
import { seriesContent, seriesDetail, seriesRow, seriesRun, startSeries } from './seriesShapes';

export const seriesRoutes = {
  listSeries: {
    method: 'get',
    path: '/series',
    access: EDITORS,
    summary: 'Series of emails and tasks that the reader finds',
    query: z.object({ text: z.string().trim().max(200).default('') }),
    response: z.object({ series: z.array(seriesRow) }),
  },
  createSeries: {
    method: 'post',
    path: '/series',
    access: EDITORS,
    summary: 'Keep a series',
    body: seriesContent,
    response: seriesDetail,
    errors: ['may-not-share', 'too-many'],
  },
  listSeriesRuns: {
    method: 'get',
    path: '/series/runs',
    access: EDITORS,
    summary: 'With whom the reader has series, what needs them first',
    query: z.object({
      address: email.optional().describe('With this person only.'),
      seriesId: z.coerce.number().int().positive().optional(),
      open: z.enum(['true', 'false']).default('false').describe('Only those that go on.'),
      limit: z.coerce.number().int().min(1).max(200).default(100),
    }),
    response: z.object({ runs: z.array(seriesRun) }),
  },
  stopSeriesRun: {
    method: 'post',
    path: '/series/runs/{id}/stop',
    access: EDITORS,
    summary: 'Send nothing more of a series to someone',
    params: idParam,
    response: seriesRun,
  },
  goOnWithSeriesRun: {
    method: 'post',
    path: '/series/runs/{id}/go-on',
    access: EDITORS,
    summary: 'Say that the task of a step is done, or leave out the email that is to be looked at; the next step follows',
    params: idParam,
    response: seriesRun,
    errors: ['not-now'],
  },
  getSeries: {
    method: 'get',
    path: '/series/{id}',
    access: EDITORS,
    summary: 'A series with its steps',
    params: idParam,
    response: seriesDetail,
  },
  saveSeries: {
    method: 'put',
    path: '/series/{id}',
    access: EDITORS,
    summary: 'Change a series; where it goes on, it goes on as it began',
    params: idParam,
    body: seriesContent.extend({ revision: z.number().int().min(0).describe('As it was read.') }),
    response: seriesDetail,
    errors: ['changed-meanwhile', 'may-not-share'],
  },
  removeSeries: {
    method: 'delete',
    path: '/series/{id}',
    access: EDITORS,
    summary: 'Remove a series; it can be restored, and where it goes on, it goes on',
    params: idParam,
    response: seriesDetail,
  },
  restoreSeries: {
    method: 'post',
    path: '/series/{id}/restore',
    access: EDITORS,
    summary: 'Restore a series that was removed',
    params: idParam,
    response: seriesDetail,
  },
  startSeries: {
    method: 'post',
    path: '/series/{id}/start',
    access: EDITORS,
    sends: true,
    summary: 'Begin a series with someone',
    params: idParam,
    body: startSeries,
    response: seriesRun,
    errors: ['no-mailbox', 'may-not-send', 'not-your-mailbox', 'agree-first', 'own-series', 'other-series', 'colleague', 'too-many'],
  },
} as const satisfies Record<string, RouteShape>;
