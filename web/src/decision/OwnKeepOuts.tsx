import { useUndo } from '../parts/useUndo';
import type { OwnKeepOut } from '@fulvet/contract';
import { useMutation, useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { useNotice } from '../parts/Notices';
import { filled } from '../parts/filled';
import { ownKeepOuts as words } from './words';

/** Keeps someone out of the reader's own mailboxes; the notice lets them in again. */
export function useKeepOutOfMine() {
  const refresh = useRefreshAll();
  const notice = useNotice();
  const undo = useUndo();
  return useMutation({
    mutationFn: (value: string) => call('addOwnKeepOut', { body: { kind: value.includes('@') ? 'address' : 'domain', value } }),
    onSuccess: async (added) => {
      await refresh();
      notice(words.isKeptOutOf(added.value), undo(added.undo));
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
      notice(words.isAllowedAgainPast(item.value));
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
    <p className="mt-4 border-t border-line pt-2 text-sm text-muted" aria-label={words.keptOutOfMy}>
      {filled(words.youKeepOut, {
        list: list.map((item, at) => (
          <span key={item.id}>
            {at > 0 && ', '}
            <span className="font-mono text-[0.92em]">{item.value}</span>{' '}
            <button type="button" className="text-spruce hover:underline" onClick={() => letIn.mutate(item)}>
              {words.letIn}
            </button>
          </span>
        )),
      })}
    </p>
  );
}
