import type { Trial } from '@fulvet/contract';
import { useState } from 'react';
import { Link } from 'react-router';
import { usePilot, useDraft } from '../rulebook/queries';
import { PutLive } from '../rulebook/PutLive';
import { Button, Trouble } from '../parts/basics';
import { useTryAgain } from './queries';
import { trialNext as words } from './words';

/** What follows a trial: its draft goes live or into a pilot, or is worked on; or it is tried again, because the draft is another by now. */
export function TrialNext({ trial }: { trial: Trial }) {
  const draft = useDraft().data;
  const pilot = usePilot().data?.pilot ?? null;
  const [asking, setAsking] = useState<'everyone' | 'pilot' | null>(null);
  const again = useTryAgain(trial);
  if (!draft) return null;
  const changes = draft.differences.length;
  return (
    <section
      aria-label={words.nextStep}
      className="mb-5 flex flex-wrap items-center gap-x-3 gap-y-1.5 rounded border border-line bg-raised px-3 py-2"
    >
      <span className="mr-auto">
        {!trial.isDraft ? words.theDraftHasBeen : changes === 0 ? words.theDraftIsThe : words.theDraftHasChange(changes)}
      </span>
      <Link className="rounded px-2 py-1 text-sm text-spruce underline" to="/versions">
        {words.backToTheDraft}
      </Link>
      {trial.isDraft && changes > 0 ? (
        <>
          <Button disabled={pilot !== null} title={pilot ? words.aPilotRunsAlready : undefined} onClick={() => setAsking('pilot')}>
            {words.pilotFirst}
          </Button>
          <Button kind="main" onClick={() => setAsking('everyone')}>
            {words.putLive}
          </Button>
        </>
      ) : (
        <Button kind={trial.isDraft ? 'plain' : 'main'} disabled={again.isPending} onClick={() => again.mutate({})}>
          {words.runAgain}
        </Button>
      )}
      <Trouble error={again.error} />
      {asking && <PutLive draft={draft} first={asking} onClose={() => setAsking(null)} />}
    </section>
  );
}
