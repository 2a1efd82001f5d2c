import { useUndo } from '../parts/useUndo';
import { useMutation, useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { useNotice } from '../parts/Notices';

export const useSharingChoices = (email?: number) => useQuery(asked('listSharingChoices', { email }));

export const useRequests = () =>
  useQuery({
    ...asked('listAccessRequests'),
    refetchInterval: 60_000,
  });

export const useGrants = () => useQuery(asked('listGrants'));

export const useEyes = (email: number, enabled: boolean) => useQuery({ ...asked('getEyes', { id: email }), enabled });

export const useEmergencies = () => useQuery(asked('listEmergencies'));

export const useSight = (member: number | null, mailbox: number | null) =>
  useQuery({
    ...asked('getSight', { id: member ?? 0, mailbox }),
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
export const useRemoveSharingChoice = () =>
  useSharing(
    (id: number) => call('removeSharingChoice', { id }),
    () => 'Undone. The rules decide again who sees it.',
  );

/** Withdraws a request to read. */
export const useWithdrawRequest = () =>
  useSharing(
    (id: number) => call('withdrawAccessRequest', { id }),
    () => 'Your request is withdrawn.',
  );
