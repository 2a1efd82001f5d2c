import type { Handlers } from '../../base/handler';
import { notFound } from '../../base/refusal';
import { beginSeries, goOn, stopByHand } from './begin';
import { createSeries, saveSeries, setRemoved } from './keep';
import { listRuns, listSeries, seriesOf } from './queries';

export const seriesRoutes: Pick<
  Handlers,
  | 'listSeries'
  | 'createSeries'
  | 'getSeries'
  | 'saveSeries'
  | 'removeSeries'
  | 'restoreSeries'
  | 'startSeries'
  | 'listSeriesRuns'
  | 'stopSeriesRun'
  | 'goOnWithSeriesRun'
> = {
  listSeries: async ({ user, query, services }) => ({ series: await services.database.as(user.id, (tx) => listSeries(tx, query.text)) }),

  createSeries: ({ user, body, services }) => createSeries(services, user, body),

  getSeries: async ({ user, params, services }) =>
    (await services.database.as(user.id, (tx) => seriesOf(tx, params.id))) ?? notFound('series'),

  saveSeries: ({ user, params, body, services }) => saveSeries(services, user, params.id, body),

  removeSeries: ({ user, params, services }) => setRemoved(services, user, params.id, true),

  restoreSeries: ({ user, params, services }) => setRemoved(services, user, params.id, false),

  startSeries: ({ user, params, body, services }) => beginSeries(services, user, params.id, body),

  listSeriesRuns: async ({ user, query, services }) => ({ runs: await services.database.as(user.id, (tx) => listRuns(tx, query)) }),

  stopSeriesRun: ({ user, params, services }) => stopByHand(services, user, params.id),

  goOnWithSeriesRun: ({ user, params, services }) => goOn(services, user, params.id),
};
