import type { ImportRun } from '@fulvet/contract';
import { Link } from 'react-router';
import { useImports } from '../api/queries';
import { Progress } from '../parts/basics';
import { Moment } from '../parts/Moment';
import { count } from '../parts/numbers';

/** Mail that was read from files. */
export function Imports() {
  const imports = useImports();
  const runs = imports.data?.imports.filter((run) => run.state !== 'open') ?? [];
  return (
    <section aria-label="Imports">
      <h2 className="mb-1 text-lg">Imports</h2>
      <ul className="divide-y divide-line border-y border-line">
        {runs.map((run) => (
          <ImportLine key={run.id} run={run} />
        ))}
      </ul>
      {imports.data && runs.length === 0 && <p className="py-1 text-muted">None yet.</p>}
    </section>
  );
}
function ImportLine({ run }: { run: ImportRun }) {
  const { counts } = run;
  const running = run.state === 'queued' || run.state === 'running';
  return (
    <li>
      <Link to={`/mailboxes/imports/${run.id}`} className="block px-1 py-1.5 hover:bg-sunk">
        <span className="flex items-baseline gap-3">
          <span className="min-w-0 grow truncate">
            {run.files[0] ?? 'no file'}
            {run.files.length > 1 && ` and ${run.files.length - 1} more`}
          </span>
          <span className="text-sm text-muted">{running ? (run.phase === 'deciding' ? 'deciding' : 'reading') : run.state}</span>
          <Moment at={run.createdAt} className="w-20 text-right text-sm text-muted" />
        </span>
        {running ? (
          <Progress
            label="Import"
            done={run.phase === 'deciding' ? counts.decided : run.readBytes}
            total={run.phase === 'deciding' ? counts.toDecide : run.totalBytes}
          />
        ) : (
          <span className="tabular block text-sm text-muted">
            {count(counts.new)} new, {count(counts.otherSighting)} seen elsewhere too, {count(counts.known)} already here
            {counts.unreadable > 0 && `, ${count(counts.unreadable)} unreadable`}
          </span>
        )}
      </Link>
    </li>
  );
}
