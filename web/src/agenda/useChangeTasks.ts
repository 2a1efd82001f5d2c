import type { Answer, Input, Task } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { useNotice } from '../parts/Notices';
import { useUndo } from '../parts/useUndo';
import { dayWords, ownZone } from './due';
import { taskActs as words } from './words';

type Change = Input<'changeTasks'>['body']['change'];

/** Changes tasks at once, and says what became of it, with a way back. */
export function useChangeTasks() {
  const refresh = useRefreshAll();
  const notice = useNotice();
  const undo = useUndo();
  return useMutation({
    mutationFn: ({ tasks, change }: { tasks: readonly Task[]; change: Change }) =>
      call('changeTasks', {
        body: { ids: tasks.map(({ id }) => id), change: change.day === undefined ? change : { ...change, zone: ownZone() } },
      }),
    onSuccess: async (done, { tasks, change }) => {
      await refresh();
      notice(said(done, tasks, change), undo(done.undo));
    },
    onError: (error) => notice(error.message),
  });
}

function said({ changed, kept, next }: Answer<'changeTasks'>, tasks: readonly Task[], change: Change): string {
  const [only] = tasks;
  const [back] = next;
  const first = kept[0];
  if (first) return words.kept(kept.length, first.because);
  if (changed === 0) return words.nothingChanged;
  if (tasks.length > 1 || !only) return words.changed(changed);
  if (change.done === true) return back?.due ? words.comesBack(only.text, dayWords(back.due.day)) : words.isDone(only.text);
  if (change.done === false) return words.isOpenAgain;
  return change.removed === true ? words.removed : words.changed(1);
}
