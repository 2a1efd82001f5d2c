import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { call } from '../api/call';
import { isRunning } from '../api/queries';

export const useTrial = (id: number) =>
  useQuery({
    queryKey: ['trial', id],
    queryFn: ({ signal }) => call('getTrial', { id }, signal),
    refetchInterval: (query) => (query.state.data && isRunning(query.state.data) ? 300 : false),
  });

/** Records that mail created and that the trial's draft would not create. */
export const useTrialMade = (id: number, enabled: boolean) =>
  useQuery({
    queryKey: ['trial-made', id],
    queryFn: ({ signal }) => call('listTrialMade', { id, limit: 200 }, signal),
    enabled,
  });

export const useTrialRows = (id: number, filter: Record<string, string>, enabled: boolean) =>
  useQuery({
    queryKey: ['trial-rows', id, filter],
    queryFn: ({ signal }) => call('listTrialRows', { id, ...filter, limit: 200 }, signal),
    enabled,
    placeholderData: keepPreviousData,
  });
