import type { Arrival } from '@fulvet/contract';
import { Link } from 'react-router';
import { TaskLine } from '../../agenda/TaskLine';
import { taskList as words } from '../../agenda/words';
import { HomeList } from './Door';

/** What the reader is to do today, and should have done before. */
export default function TodaysTasks({ tasks }: { tasks: Arrival['tasks'] }) {
  return (
    <HomeList
      title={words.toDo}
      aside={
        <Link to="/tasks" className="text-sm text-spruce hover:underline">
          {words.more}
        </Link>
      }
    >
      {tasks.map((task) => (
        <li key={task.id} className="px-1">
          <TaskLine task={task} />
        </li>
      ))}
    </HomeList>
  );
}
