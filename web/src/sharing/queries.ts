import { useUndo } from '../parts/useUndo';
import { useMutation, useQuery } from '@tanstack/react-query';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { useNotice } from '../parts/Notices';

export const useWords = (email?: number) =>
  useQuery({
    queryKey: ['words', email ?? 0],
    queryFn: ({ signal }) => call('listOwnWords', { email }, signal),
  });

export const useRequests = () =>
  useQuery({
    queryKey: ['access-requests'],
    queryFn: ({ signal }) => call('listAccessRequests', {}, signal),
    refetchInterval: 60_000,
  });

export const useGrants = () =>
  useQuery({
    queryKey: ['grants'],
    queryFn: ({ signal }) => call('listGrants', {}, signal),
  });

export const useEyes = (email: number, enabled: boolean) =>
  useQuery({ queryKey: ['eyes', email], queryFn: ({ signal }) => call('getEyes', { id: email }, signal), enabled });

export const useEmergencies = () =>
  useQuery({
    queryKey: ['emergencies'],
    queryFn: ({ signal }) => call('listEmergencies', {}, signal),
  });

export const useSight = (member: number | null, mailbox: number | null) =>
  useQuery({
    queryKey: ['sight', member, mailbox],
    queryFn: ({ signal }) => call('getSight', { id: member ?? 0, mailbox }, signal),
    enabled: member !== null && mailbox !== null,
  });

/** The step that an answer names, where it can be undone. */
export const stepOf = (answer: unknown): number | null =>
  typeof answer === 'object' && answer !== null && 'undo' in answer && typeof answer.undo === 'number' ? answer.undo : null;

/** Something that changes who sees what: said in a notice, and everything shown is asked for again. */
export function useSharing<T>(call: (input: T) => Promise<unknown>, said: (input: T) => string) {
  const refresh = useRefreshAll();
  const notice = useNotice();
  const undo = useUndo();
  return useMutation({
    mutationFn: call,
    onSuccess: async (answer, input) => {
      await refresh();
      notice(said(input), undo(stepOf(answer)));
    },
  });
}

/** Takes back what an owner said of emails of theirs. */
export const useTakeBackWord = () =>
  useSharing(
    (id: number) => call('removeOwnWord', { id }),
    () => 'Undone. The rules decide again who sees it.',
  );

/** Withdraws a request to read. */
export const useWithdrawRequest = () =>
  useSharing(
    (id: number) => call('withdrawAccessRequest', { id }),
    () => 'Your request is withdrawn.',
  );
