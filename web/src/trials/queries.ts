import type { Trial, TrialMadeRow, TrialRow } from '@fulvet/contract';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { api, queryOf } from '../api/client';
import { isRunning } from '../api/queries';

export const useTrial = (id: number) =>
  useQuery({
    queryKey: ['trial', id],
    queryFn: ({ signal }) => api<Trial>('GET', `/trials/${id}`, undefined, signal),
    refetchInterval: (query) => (query.state.data && isRunning(query.state.data) ? 300 : false),
  });

/** Records that mail created and that the trial's draft would not create. */
export const useTrialMade = (id: number, enabled: boolean) =>
  useQuery({
    queryKey: ['trial-made', id],
    queryFn: ({ signal }) =>
      api<{ records: TrialMadeRow[]; total: number }>('GET', `/trials/${id}/not-created?limit=200`, undefined, signal),
    enabled,
  });

export const useTrialRows = (id: number, filter: Record<string, string>, enabled: boolean) =>
  useQuery({
    queryKey: ['trial-rows', id, filter],
    queryFn: ({ signal }) =>
      api<{ rows: TrialRow[]; total: number }>('GET', `/trials/${id}/emails${queryOf({ ...filter, limit: 200 })}`, undefined, signal),
    enabled,
    placeholderData: keepPreviousData,
  });
