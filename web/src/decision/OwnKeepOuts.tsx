import { useUndo } from '../parts/useUndo';
import type { OwnKeepOut } from '@fulvet/contract';
import { useMutation, useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { useNotice } from '../parts/Notices';

/** Keeps someone out of the reader's own mailboxes; the notice lets them in again. */
export function useKeepOutOfMine() {
  const refresh = useRefreshAll();
  const notice = useNotice();
  const undo = useUndo();
  return useMutation({
    mutationFn: (value: string) => call('addOwnKeepOut', { body: { kind: value.includes('@') ? 'address' : 'domain', value } }),
    onSuccess: async (added) => {
      await refresh();
      notice(`${added.value} is kept out of your mail. Nothing changes in your mailbox.`, undo(added.undo));
    },
    onError: (error) => notice(error.message),
  });
}

function useLetIn() {
  const refresh = useRefreshAll();
  const notice = useNotice();
  return useMutation({
    mutationFn: (item: OwnKeepOut) => call('removeOwnKeepOut', { id: item.id }),
    onSuccess: async (_, item) => {
      await refresh();
      notice(`${item.value} is allowed again. Past mail is being decided again.`);
    },
    onError: (error) => notice(error.message),
  });
}

/** Whom the reader keeps out of their own mail. */
export function OwnKeepOuts() {
  const found = useQuery(asked('listOwnKeepOuts'));
  const letIn = useLetIn();
  const list = found.data?.keepOuts ?? [];
  if (list.length === 0) return null;
  return (
    <p className="mt-4 border-t border-line pt-2 text-sm text-muted" aria-label="Kept out of my mail">
      You keep out{' '}
      {list.map((item, at) => (
        <span key={item.id}>
          {at > 0 && ', '}
          <span className="font-mono text-[0.92em]">{item.value}</span>{' '}
          <button type="button" className="text-spruce hover:underline" onClick={() => letIn.mutate(item)}>
            let in
          </button>
        </span>
      ))}
    </p>
  );
}
