import type { SeriesRun, User } from '@fulvet/contract';
import { Button, Trouble } from '../../parts/basics';
import { clsx } from '../../parts/clsx';
import { filled } from '../../parts/filled';
import { Moment } from '../../parts/Moment';
import { useDecisionPanel } from '../../parts/useDecisionPanel';
import { openDraft } from '../openDrafts';
import { useRuns } from './queries';
import { useRunActs, whoOf } from './useRunActs';
import { runList as words, runStates, stopReasons } from './words';

const NEEDS: ReadonlySet<SeriesRun['state']> = new Set(['to look at', 'to do']);
const OVER: ReadonlySet<SeriesRun['state']> = new Set(['ended', 'stopped']);

/** With whom a series goes on, and with whom it has ended, what needs the reader first. */
export function RunsOfSeries({ user, seriesId }: { user: User; seriesId: number }) {
  const found = useRuns({ seriesId });
  return (
    <section className="mt-6 border-t border-line pt-3" aria-label={words.people}>
      <h2 className="mb-1 text-lg">{words.people}</h2>
      <Trouble error={found.error} />
      {found.data?.runs.length === 0 && <p className="text-muted">{words.noPeople}</p>}
      <ul className="divide-y divide-line border-y border-line empty:hidden">
        {found.data?.runs.map((run) => (
          <li key={run.id} className="py-1.5">
            <span className="block truncate font-medium">{whoOf(run)}</span>
            <RunLine run={run} user={user} />
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Where a series with someone stands, and what can be done. */
export function RunLine({ run, user }: { run: SeriesRun; user: User }) {
  const needs = NEEDS.has(run.state);
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
      <span className="min-w-0 grow text-sm">
        <span className={clsx(needs && 'font-medium text-ochre')}>{stateOf(run)}</span>
        {run.state === 'waiting' && (
          <span className="text-muted"> · {filled(words.next, { when: <Moment key="when" at={run.dueAt} className="tabular" /> })}</span>
        )}
        {run.task !== null && <span className="block wrap-anywhere">{run.task}</span>}
        {run.problem !== '' && <span className="block wrap-anywhere text-muted">{run.problem}</span>}
      </span>
      <RunActs run={run} user={user} />
    </div>
  );
}

const stateOf = ({ state, atStep, stepCount, why }: SeriesRun): string =>
  state === 'stopped' && why !== null
    ? `${runStates.stopped}: ${stopReasons[why]}`
    : state === 'ended'
      ? runStates.ended
      : `${runStates[state]} · ${words.step(atStep, stepCount)}`;

export function RunActs({ run, user }: { run: SeriesRun; user: User }) {
  const { stop, goOn, pending } = useRunActs(run);
  const decision = useDecisionPanel();
  const { outgoingId, stoppedByEmail } = run;
  const who = whoOf(run);
  return (
    <span className="flex flex-wrap gap-1.5">
      {run.state === 'to look at' && outgoingId !== null && (
        <>
          <Button onClick={() => openDraft(user.id, outgoingId)}>{words.openEmail}</Button>
          <Button kind="quiet" aria-label={words.leaveOutFor(who)} disabled={pending} onClick={goOn}>
            {words.leaveOut}
          </Button>
        </>
      )}
      {run.state === 'to do' && (
        <Button aria-label={words.doneFor(who)} disabled={pending} onClick={goOn}>
          {words.done}
        </Button>
      )}
      {stoppedByEmail !== null && <Button onClick={() => decision.open(stoppedByEmail)}>{words.showAnswer}</Button>}
      {!OVER.has(run.state) && (
        <Button kind="quiet" aria-label={words.stopFor(who)} disabled={pending} onClick={stop}>
          {words.stop}
        </Button>
      )}
    </span>
  );
}
