import { useMutation, useQueryClient } from '@tanstack/react-query';
import { answersOf, answerKey } from '../api/asked';
import { call } from '../api/call';
import { useNotice } from '../parts/Notices';
import { useUndo } from '../parts/useUndo';
import { useKeepDraft as words } from './words';

/** Keeps an edited rulebook as the draft; what stood before can be had back. */
export function useKeepDraft() {
  const client = useQueryClient();
  const notice = useNotice();
  const undo = useUndo();
  return useMutation({
    mutationFn: ({ document, revision }: { document: unknown; revision: number; said?: string }) =>
      call('putDraft', { revision, body: document }),
    onSuccess: (kept, { said }) => {
      client.setQueryData(answerKey('getDraft'), kept);
      void client.invalidateQueries(answersOf('checkDraft', 'listAddressLists', 'listAddressListEntries', 'listTrials'));
      if (said) notice(words.itIsInThe(said), undo(kept.undo));
    },
  });
}
