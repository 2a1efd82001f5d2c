import type { User } from '@fulvet/contract';
import { Clock } from 'lucide-react';
import { lazy, Suspense, useState } from 'react';
import { Button } from '../../parts/basics';
import { useRuns } from './queries';
import { RunLine } from './RunList';
import { recordSeries, startSeries as words } from './words';

const StartSeries = lazy(() => import('./StartSeries'));

interface Person {
  name: string;
  address: string;
}

/** Begins a series with a person. */
export function StartSeriesButton({ to }: { to: Person }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>
        <Clock size={14} /> {words.start}
      </Button>
      {open && (
        <Suspense>
          <StartSeries to={to} onClose={() => setOpen(false)} />
        </Suspense>
      )}
    </>
  );
}

/** Series of the reader with a person that go on. */
export function RecordSeries({ user, to }: { user: User; to: Person }) {
  const runs = useRuns({ address: to.address, open: 'true' }).data?.runs ?? [];
  if (runs.length === 0) return null;
  return (
    <section className="mb-3 border-l-2 border-line pl-2" aria-label={recordSeries.title}>
      {runs.map((run) => (
        <div key={run.id}>
          <h2 className="truncate">{run.name}</h2>
          <RunLine run={run} user={user} />
        </div>
      ))}
    </section>
  );
}
