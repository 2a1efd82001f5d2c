import type { Task } from '@fulvet/contract';
import { Repeat } from 'lucide-react';
import { lazy, Suspense, useState } from 'react';
import { Link } from 'react-router';
import { useSession } from '../api/queries';
import { Button } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { exactMoment, Moment } from '../parts/Moment';
import { recordPath } from '../parts/people';
import { useDecisionPanel } from '../parts/useDecisionPanel';
import { dueWords, isLate } from './due';
import { useChangeTasks } from './useChangeTasks';
import { taskEnds, taskLine as words } from './words';

const TaskForm = lazy(() => import('./TaskForm'));

/** A task: a box that says that it is done, what it is, and when it is due. */
export function TaskLine({
  task,
  withRecords = true,
  withEmail = true,
}: {
  task: Task;
  withRecords?: boolean;
  /** Where the email does not stand beside it. */
  withEmail?: boolean;
}) {
  const change = useChangeTasks();
  const decision = useDecisionPanel();
  const me = useSession().data?.user?.id;
  const [changing, setChanging] = useState(false);
  const { done, due, email } = task;
  return (
    <div className="flex items-start gap-2 py-1">
      <input
        type="checkbox"
        className="mt-1 grid size-4.5 shrink-0 cursor-pointer appearance-none place-items-center rounded-full border-2 border-spruce text-xs text-onspruce checked:bg-spruce checked:before:content-['✓'] disabled:cursor-default disabled:opacity-50"
        aria-label={words.markAsDone(task.text)}
        checked={done !== null}
        disabled={!task.canChange || change.isPending}
        onChange={() => change.mutate({ tasks: [task], change: { done: done === null } })}
      />
      <div className="min-w-0 grow">
        <span className={clsx('break-words', done && 'text-muted line-through')}>{task.text}</span>
        {task.details !== '' && <p className="text-sm break-words whitespace-pre-wrap text-muted">{task.details}</p>}
        <p className="flex flex-wrap gap-x-3 text-sm text-muted empty:hidden">
          {due && !done && (
            <span className={clsx('tabular', isLate(task) && 'font-medium text-brick')} title={task.dueAt ? exactMoment(task.dueAt) : ''}>
              {dueWords(due)}
            </span>
          )}
          {done && <Done done={done} />}
          {task.repeat && (
            <span className="flex items-center gap-1">
              <Repeat size={13} aria-hidden /> {words.repeats}
            </span>
          )}
          {task.endsBy && !done && <span>{words.endsBy(taskEnds[task.endsBy])}</span>}
          {task.assignee.id !== me && <span>{words.by(task.assignee.name)}</span>}
          {task.isPrivate && <span>{words.private}</span>}
          {withRecords &&
            task.records.map(({ kind, id, name }) => (
              <Link key={`${kind}${id}`} to={recordPath(kind, id)} className="text-spruce hover:underline">
                {name}
              </Link>
            ))}
          {withEmail && email && (
            <button type="button" className="text-spruce hover:underline" onClick={() => decision.open(email.id)}>
              {words.email}
            </button>
          )}
        </p>
      </div>
      {task.canChange && !done && (
        <Button kind="quiet" aria-label={`${words.change}: ${task.text}`} onClick={() => setChanging(true)}>
          {words.change}
        </Button>
      )}
      {changing && (
        <Suspense>
          <TaskForm task={task} onClose={() => setChanging(false)} />
        </Suspense>
      )}
    </div>
  );
}

function Done({ done: { at, by, emailId } }: { done: NonNullable<Task['done']> }) {
  const decision = useDecisionPanel();
  return (
    <span>
      <Moment at={at} />,{' '}
      {emailId !== null ? (
        <button type="button" className="text-spruce hover:underline" onClick={() => decision.open(emailId)}>
          {words.endedByMail}
        </button>
      ) : by === null ? (
        words.ended
      ) : (
        words.doneBy(by)
      )}
    </span>
  );
}
