import { Button, Progress, Trouble } from '../parts/basics';
import { count } from '../parts/numbers';
import { PastRuns } from './PastRuns';
import { useDecideRun } from './useSaveRulebook';

/** Goes over past mail with the rulebook in force; shows how far it is and can be cancelled. */
export function DecideAgain() {
  const { start, cancel, run } = useDecideRun();
  return (
    <section className="mt-6 border-t border-line pt-3">
      {run ? (
        <div className="flex max-w-md items-center gap-3">
          <div className="grow">
            <Progress label="Deciding past mail again" done={run.done} total={run.total} />
            <p className="tabular mt-1 text-sm text-muted">
              {count(run.done)} of {count(run.total)} decided
            </p>
          </div>
          <Button onClick={cancel}>Cancel</Button>
        </div>
      ) : (
        <p className="flex flex-wrap items-center gap-3 text-muted">
          A change holds for new mail. Past mail stays as decided until you go over it.
          <Button onClick={() => start.mutate()} disabled={start.isPending}>
            Decide all past mail again
          </Button>
        </p>
      )}
      <Trouble error={start.error} />
      <PastRuns />
    </section>
  );
}
