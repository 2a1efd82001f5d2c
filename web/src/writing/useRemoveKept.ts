import type { UseMutationResult } from '@tanstack/react-query';
import { useMutation } from '@tanstack/react-query';
import { useNotice } from '../parts/Notices';

/** Removes something that is kept; the notice of it brings it back. */
export function useRemoveKept({
  remove,
  restore,
  refresh,
  onGone,
  words,
}: {
  remove: () => Promise<unknown>;
  restore: () => Promise<unknown>;
  refresh: () => Promise<void>;
  onGone: () => void;
  words: { removed: string; restored: string; undo: string };
}): UseMutationResult {
  const notice = useNotice();
  return useMutation({
    mutationFn: remove,
    onSuccess: async () => {
      onGone();
      await refresh();
      const run = async (): Promise<void> => {
        await restore();
        await refresh();
        notice(words.restored);
      };
      notice(words.removed, { label: words.undo, run });
    },
  });
}
