import { ListChecks } from 'lucide-react';
import { lazy, Suspense, useState } from 'react';
import { Button } from '../parts/basics';
import type { PickedRecord } from '../parts/RecordPicker';
import { taskList, tasksPage } from './words';

const TaskForm = lazy(() => import('./TaskForm'));

/** Opens what is needed to write down a task, about a record where one is given. */
export function NewTask({ record }: { record?: PickedRecord }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button kind={record ? 'plain' : 'main'} onClick={() => setOpen(true)}>
        <ListChecks size={14} /> {record ? taskList.addTask : tasksPage.newTask}
      </Button>
      {open && (
        <Suspense>
          <TaskForm records={record ? [record] : []} onClose={() => setOpen(false)} />
        </Suspense>
      )}
    </>
  );
}
