import type { Trial } from '@fulvet/contract';
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { answersOf, asked } from '../api/asked';
import { whileRunning } from '../api/listening';
import { useNavigate } from 'react-router';
import { call } from '../api/call';
import { isRunning } from '../api/queries';

export const useTrial = (id: number) =>
  useQuery({
    ...asked('getTrial', { id }),
    refetchInterval: (query) => (query.state.data && isRunning(query.state.data) ? whileRunning(300) : false),
  });

/** Records that mail created and that the trial's draft would not create. */
export const useTrialMade = (id: number, enabled: boolean) =>
  useQuery({
    ...asked('listTrialMade', { id, limit: 200 }),
    enabled,
  });

export const useTrialRows = (id: number, filter: Record<string, string>, enabled: boolean) =>
  useQuery({
    ...asked('listTrialRows', { id, ...filter, limit: 200 }),
    enabled,
    placeholderData: keepPreviousData,
  });

const DAY_MS = 86_400_000;

/** Tries the draft as it is now on the mail of an earlier trial, and leads to what that finds. */
export function useTryAgain({ since, at, mailboxes, withoutMade }: Trial) {
  const client = useQueryClient();
  const go = useNavigate();
  const days = since === null ? null : Math.max(1, Math.round((Date.parse(at) - Date.parse(since)) / DAY_MS));
  return useMutation({
    mutationFn: (change: { name?: string; withoutMade?: boolean }) =>
      call('startTrial', { body: { days, mailboxes, withoutMade, ...change } }),
    onSuccess: async (made) => {
      await client.invalidateQueries(answersOf('listTrials'));
      await go(`/trials/${made.id}`);
    },
  });
}
