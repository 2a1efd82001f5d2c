import type { Input } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { call } from '../api/call';
import { useSession } from '../api/queries';
import { useNotice } from '../parts/Notices';
import { openDraft } from './openDrafts';

type Start = Input<'startOutgoing'>['body'];

/** Begins an email and opens it in the tray. */
export function useWrite(): { write: (start: Start) => void; pending: boolean } {
  const user = useSession().data?.user;
  const notice = useNotice();
  const begin = useMutation({
    mutationFn: (body: Start) => call('startOutgoing', { body }),
    onSuccess: ({ id }) => user && openDraft(user.id, id),
    onError: (error) => notice(error.message),
  });
  return { write: begin.mutate, pending: begin.isPending };
}
