import { lazy, Suspense, useState } from 'react';
import type { RecordFilter } from '../../api/queries';
import { Button } from '../../parts/basics';
import { useSenders } from '../queries';
import { writeToMany as words } from './words';

const WriteToMany = lazy(() => import('./WriteToMany'));

/** Writes to the people of a list, for those who may. */
export function WriteToThese({ kind, filter }: { kind: 'contact' | 'lead'; filter: RecordFilter }) {
  const senders = useSenders().data;
  const [open, setOpen] = useState(false);
  if (!senders?.mayBulk || senders.senders.length === 0) return null;
  return (
    <>
      <Button onClick={() => setOpen(true)}>{words.write}</Button>
      {open && (
        <Suspense>
          <WriteToMany order={{ kind, filter }} onClose={() => setOpen(false)} />
        </Suspense>
      )}
    </>
  );
}
