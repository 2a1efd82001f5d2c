import { useUndo } from '../parts/useUndo';
import { useMutation } from '@tanstack/react-query';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { useNotice } from '../parts/Notices';
import { useSharing as words } from './words';

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
    () => words.undoneTheRulesDecide,
  );

/** Withdraws a request to read. */
export const useWithdrawRequest = () =>
  useSharing(
    (id: number) => call('withdrawAccessRequest', { id }),
    () => words.yourRequestIsWithdrawn,
  );
