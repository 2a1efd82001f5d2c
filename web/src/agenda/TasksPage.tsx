import type { Task, User } from '@fulvet/contract';
import { useInfiniteQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { answerKey } from '../api/asked';
import { call } from '../api/call';
import { Button, Empty, Page, Trouble, Waiting } from '../parts/basics';
import { Choice } from '../parts/Choice';
import { DatePicker } from '../parts/DatePicker';
import { common } from '../parts/words';
import { inDays, partOf, today } from './due';
import type { Part } from './due';
import { NewTask } from './NewTask';
import { TaskLine } from './TaskLine';
import { useDoers } from './useDoers';
import { useChangeTasks } from './useChangeTasks';
import { taskActs, taskDue, taskLine, tasksPage as words } from './words';

type State = 'open' | 'done';

const PARTS: readonly Part[] = ['overdue', 'today', 'nextSevenDays', 'later', 'noDay'];
const PAGE = 100;

function useTasks(who: 'me' | 'all', state: State) {
  return useInfiniteQuery({
    queryKey: [...answerKey('listTasks', { who, state, limit: PAGE }), 'pages'],
    queryFn: ({ pageParam }) => call('listTasks', { who, state, limit: PAGE, ...(pageParam === '' ? {} : { after: pageParam }) }),
    initialPageParam: '',
    getNextPageParam: ({ next }) => next,
  });
}

/** What the reader and their colleagues are to do. */
export default function TasksPage({ user }: { user: User }) {
  const [who, setWho] = useState<'me' | 'all'>('me');
  const [state, setState] = useState<State>('open');
  const found = useTasks(who, state);
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const tasks = useMemo(() => found.data?.pages.flatMap((page) => page.tasks) ?? [], [found.data]);
  const selected = tasks.filter(({ id }) => chosen.has(id));
  const choose = (ids: readonly number[], isChosen: boolean): void => {
    const next = new Set(chosen);
    for (const id of ids)
      if (isChosen) next.add(id);
      else next.delete(id);
    setChosen(next);
  };
  const parts =
    state === 'done' ? [{ part: null, tasks }] : PARTS.map((part) => ({ part, tasks: tasks.filter((task) => partOf(task) === part) }));
  return (
    <Page title={words.tasks} purpose={words.whatIsToBeDone} aside={<NewTask />}>
      <div className="mb-3 flex flex-wrap items-center gap-x-4 gap-y-2">
        <Switch label={words.who} value={who} options={{ me: words.mine, all: words.all }} onChange={setWho} />
        <Switch label={words.state} value={state} options={{ open: words.open, done: words.done }} onChange={setState} />
        <a href="/api/v1/tasks/export" download className="ml-auto text-sm text-spruce hover:underline">
          {words.asICalendar}
        </a>
      </div>
      <Trouble error={found.error} />
      {found.isPending && <Waiting what={common.reading} />}
      {found.data && tasks.length === 0 && (
        <Empty title={state === 'open' ? words.nothingOpen : words.nothingDone}>{words.writeOneDown}</Empty>
      )}
      {selected.length > 0 && <ManyTasks tasks={selected} user={user} onDone={() => setChosen(new Set())} />}
      <div className="space-y-5">
        {parts.map(
          ({ part, tasks: within }) =>
            within.length > 0 && (
              <section key={part ?? state} aria-label={part === null ? words.done : words[part]}>
                <h2 className="mb-1 flex items-baseline gap-2 text-lg">
                  <Select
                    label={`${words.selectAll}: ${part === null ? words.done : words[part]}`}
                    checked={within.every(({ id }) => chosen.has(id))}
                    onChange={(checked) =>
                      choose(
                        within.map(({ id }) => id),
                        checked,
                      )
                    }
                  />
                  {part === null ? words.done : words[part]} <span className="tabular text-base text-muted">{within.length}</span>
                </h2>
                <ul className="divide-y divide-line border-y border-line">
                  {within.map((task) => (
                    <li key={task.id} className="flex items-start gap-3">
                      <span className="pt-2">
                        <Select
                          label={taskLine.select(task.text)}
                          checked={chosen.has(task.id)}
                          onChange={(checked) => choose([task.id], checked)}
                        />
                      </span>
                      <div className="min-w-0 grow">
                        <TaskLine task={task} />
                      </div>
                    </li>
                  ))}
                </ul>
              </section>
            ),
        )}
      </div>
      {found.hasNextPage && (
        <Button className="mt-4" disabled={found.isFetchingNextPage} onClick={() => void found.fetchNextPage()}>
          {words.more}
        </Button>
      )}
    </Page>
  );
}

function Select({ label, checked, onChange }: { label: string; checked: boolean; onChange: (checked: boolean) => void }) {
  return (
    <input
      type="checkbox"
      aria-label={label}
      className="size-3.5 accent-(--ochre)"
      checked={checked}
      onChange={(event) => onChange(event.target.checked)}
    />
  );
}

function Switch<Value extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: Value;
  options: Record<Value, string>;
  onChange: (value: Value) => void;
}) {
  return (
    <div role="group" aria-label={label} className="flex gap-1">
      {(Object.entries(options) as [Value, string][]).map(([key, shown]) => (
        <Button key={key} kind={key === value ? 'plain' : 'quiet'} aria-pressed={key === value} onClick={() => onChange(key)}>
          {shown}
        </Button>
      ))}
    </div>
  );
}

/** What is done with several tasks at once. */
function ManyTasks({ tasks, user, onDone }: { tasks: readonly Task[]; user: User; onDone: () => void }) {
  const change = useChangeTasks();
  const members = useDoers();
  const act = (what: Parameters<typeof change.mutate>[0]['change']): void => change.mutate({ tasks, change: what }, { onSuccess: onDone });
  const areDone = tasks.every(({ done }) => done !== null);
  return (
    <div
      className="sticky top-0 z-10 mb-3 flex flex-wrap items-center gap-1.5 rounded border border-line bg-raised px-3 py-2 shadow"
      role="region"
      aria-label={words.ofTheShown(tasks.length)}
    >
      <strong className="mr-2">{words.ofTheShown(tasks.length)}</strong>
      <Button disabled={change.isPending} onClick={() => act({ done: !areDone })}>
        {areDone ? taskActs.openAgain : taskActs.done}
      </Button>
      {!areDone && (
        <>
          <Button disabled={change.isPending} onClick={() => act({ day: today() })}>
            {taskDue.today}
          </Button>
          <Button disabled={change.isPending} onClick={() => act({ day: inDays(1) })}>
            {taskDue.tomorrow}
          </Button>
          <DatePicker
            label={taskActs.moveTo}
            name={taskActs.move}
            empty="…"
            fit="words"
            value=""
            disabled={change.isPending}
            onValue={(day) => day !== '' && act({ day })}
          />
          <Choice
            label={taskActs.handOver}
            shown={taskActs.handOver}
            value=""
            options={members.map(({ id, name, email }) => ({ value: String(id), label: name, hint: id === user.id ? '' : email }))}
            onChange={(id) => act({ assigneeId: Number(id) })}
          />
        </>
      )}
      <Button kind="quiet" disabled={change.isPending} onClick={() => act({ removed: true })}>
        {taskActs.remove}
      </Button>
    </div>
  );
}
