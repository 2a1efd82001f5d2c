import type { RecordKind } from '@fulvet/contract';
import { useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { TaskLine } from './TaskLine';
import { taskList as words } from './words';

const MOST_SHOWN = 12;

/** What is to be done about a record, by whoever. */
export function RecordTasks({ kind, id }: { kind: RecordKind; id: number }) {
  const found = useQuery(asked('listTasks', { who: 'all', record: `${kind}:${id}`, limit: MOST_SHOWN }));
  const tasks = found.data?.tasks ?? [];
  if (tasks.length === 0) return null;
  return (
    <section className="mb-3 border-l-2 border-spruce pl-2" aria-label={words.toDo}>
      <h2>{words.toDo}</h2>
      <ul>
        {tasks.map((task) => (
          <li key={task.id}>
            <TaskLine task={task} withRecords={kind === 'account'} />
          </li>
        ))}
      </ul>
    </section>
  );
}
