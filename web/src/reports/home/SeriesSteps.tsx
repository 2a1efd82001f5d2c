import type { Arrival, User } from '@fulvet/contract';
import { RunLine } from '../../writing/series/RunList';
import { whoOf } from '../../writing/series/useRunActs';
import { runList as words } from '../../writing/series/words';
import { HomeList } from './Door';

/** Steps of the reader's series that wait for them. */
export default function SeriesSteps({ runs, user }: { runs: Arrival['series']; user: User }) {
  return (
    <HomeList title={words.ofAll}>
      {runs.map((run) => (
        <li key={run.id} className="px-1 py-1.5">
          <span className="flex flex-wrap gap-x-2">
            <span className="truncate font-medium">{whoOf(run)}</span>
            <span className="ml-auto truncate text-sm text-muted">{run.name}</span>
          </span>
          <RunLine run={run} user={user} />
        </li>
      ))}
    </HomeList>
  );
}
