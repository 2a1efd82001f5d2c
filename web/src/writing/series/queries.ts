import { useQuery } from '@tanstack/react-query';
import { answersOf, asked } from '../../api/asked';

export const useSeriesList = (text: string) =>
  useQuery({ ...asked('listSeries', text ? { text } : {}), placeholderData: (previous) => previous });

export const useSeries = (id: number) => useQuery(asked('getSeries', { id }));

/** Of a series, or with a person: all of them, or those that go on. */
export const useRuns = (which: { seriesId?: number; address?: string; open?: 'true' }) => useQuery(asked('listSeriesRuns', which));

export const SERIES_ANSWERS = answersOf('listSeries', 'getSeries', 'listSeriesRuns', 'getArrival', 'listOutgoing', 'getOutgoing');
