import type { ImportRun } from '@fulvet/contract';
import { Link } from 'react-router';
import { useImports } from './queries';
import { Progress } from '../parts/basics';
import { Moment } from '../parts/Moment';
import { count } from '../parts/numbers';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { imports as words } from './words';

/** Mail that was read from files. */
export function Imports() {
  const imports = useImports();
  const runs = imports.data?.imports.filter((run) => run.state !== 'open') ?? [];
  return (
    <section aria-label={words.imports}>
      <h2 className="mb-1 text-lg">{words.imports}</h2>
      <ul className="divide-y divide-line border-y border-line">
        {runs.map((run) => (
          <ImportLine key={run.id} run={run} />
        ))}
      </ul>
      {imports.data && runs.length === 0 && <p className="py-1 text-muted">{common.noneYet}</p>}
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
            {run.files[0] ?? words.noFile}
            {run.files.length > 1 && words.andMore(run.files.length - 1)}
          </span>
          <span className="text-sm text-muted">{running ? (run.phase === 'deciding' ? words.deciding : words.reading) : run.state}</span>
          <Moment at={run.createdAt} className="w-20 text-right text-sm text-muted" />
        </span>
        {running ? (
          <Progress
            label={common.import}
            done={run.phase === 'deciding' ? counts.decided : run.readBytes}
            total={run.phase === 'deciding' ? counts.toDecide : run.totalBytes}
          />
        ) : (
          <span className="tabular block text-sm text-muted">
            {filled(words.newSeenElsewhereToo, {
              newValue: count(counts.new),
              otherSighting: count(counts.otherSighting),
              known: count(counts.known),
              unreadable: counts.unreadable > 0 && words.unreadable(counts.unreadable),
            })}
          </span>
        )}
      </Link>
    </li>
  );
}
