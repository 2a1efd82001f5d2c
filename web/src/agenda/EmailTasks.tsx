import type { EmailDetail } from '@fulvet/contract';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';
import { asked } from '../api/asked';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { Button } from '../parts/basics';
import { isTyping } from '../parts/isTyping';
import { useNotice } from '../parts/Notices';
import { common } from '../parts/words';
import { dayWords, inDays, ownZone, today } from './due';
import { TaskLine } from './TaskLine';
import { emailTasks as words, taskActs } from './words';

/** After so many days we ask again. */
const ASK_AGAIN_DAYS = 7;

/** What is to be done because of an email; the key D makes it a task. */
export function EmailTasks({ email }: { email: EmailDetail }) {
  const found = useQuery(asked('listTasks', { who: 'all', emailId: email.id }));
  const tasks = found.data?.tasks ?? [];
  const make = useMakeTask(email);
  const { mutate, isPending } = make;
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      if (event.key.toLowerCase() !== 'd' || event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented) return;
      if (isTyping(event.target) || document.querySelector('[role=dialog]') || isPending) return;
      event.preventDefault();
      mutate();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [mutate, isPending]);
  return (
    <section className="mt-4 border-t border-line pt-3" aria-label={words.toDo}>
      <div className="flex items-baseline justify-between gap-3">
        <h3>{words.toDo}</h3>
        <Button disabled={isPending} onClick={() => mutate()}>
          {words.makeTask} <kbd className="ml-0.5 font-mono text-xs text-muted">D</kbd>
        </Button>
      </div>
      <ul>
        {tasks.map((task) => (
          <li key={task.id}>
            <TaskLine task={task} withEmail={false} />
          </li>
        ))}
      </ul>
    </section>
  );
}

function useMakeTask(email: EmailDetail) {
  const refresh = useRefreshAll();
  const notice = useNotice();
  const theirs = email.direction === 'received';
  const sender = email.content?.participants.find(({ role }) => role === 'from');
  const subject = email.content?.subject || common.noSubject;
  const day = theirs ? today() : inDays(ASK_AGAIN_DAYS);
  return useMutation({
    mutationFn: () =>
      call('createTask', {
        body: {
          text: (theirs ? words.answer(sender?.name || sender?.address || '', subject) : words.followUp(subject)).slice(0, 500),
          emailId: email.id,
          due: { day, time: null, zone: ownZone() },
          endsBy: theirs ? 'our answer' : 'their answer',
        },
      }),
    onSuccess: async (task) => {
      await refresh();
      const takeBack = async (): Promise<void> => {
        await call('changeTasks', { body: { ids: [task.id], change: { removed: true } } });
        await refresh();
        notice(taskActs.removed);
      };
      notice(theirs ? words.isATask : words.isATaskForDay(dayWords(day)), { label: common.undo, run: takeBack });
    },
    onError: (error) => notice(error.message),
  });
}
