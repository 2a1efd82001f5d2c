import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { Button, Trouble } from '../parts/basics';
import { Modal } from '../parts/Modal';
import { Moment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { counted } from '../parts/numbers';
import type { PastRun } from './usePastRuns';
import { changedWords } from './usePastRuns';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { pastRuns as words } from './words';

/** The last runs over past mail; each can be undone as one step. */
export function PastRuns({ runs }: { runs: readonly PastRun[] }) {
  const [asking, setAsking] = useState<PastRun | null>(null);
  const shown = runs.filter((run) => run.undoable).slice(0, 3);
  if (shown.length === 0) return null;
  return (
    <section aria-label={words.pastMailDecidedAgain} className="mt-3">
      <ul>
        {shown.map((run) => (
          <li key={run.id} className="flex flex-wrap items-center gap-3 py-0.5 text-sm">
            <span>
              {filled(words.pastMailWasDecided, {
                run: spanWords(run),
                run2: changedWords(run),
                runBy: (
                  <span className="text-muted">
                    · {run.by} · <Moment at={run.at} />
                  </span>
                ),
              })}
            </span>
            <Button kind="quiet" onClick={() => setAsking(run)}>
              {words.undo}
            </Button>
          </li>
        ))}
      </ul>
      {asking && <Undo run={asking} onClose={() => setAsking(null)} />}
    </section>
  );
}

function spanWords({ since, mailboxes }: PastRun): string {
  const from = since === null ? '' : words.since(since.slice(0, 10));
  return [from, mailboxes.length > 0 ? words.ofMailboxes(mailboxes.length) : ''].filter(Boolean).join(' ');
}

function Undo({ run, onClose }: { run: PastRun; onClose: () => void }) {
  const [rulebook, setRulebook] = useState(true);
  const refresh = useRefreshAll();
  const notice = useNotice();
  const undo = useMutation({
    mutationFn: () => call('undoDecideRun', { id: run.id, body: { rulebook } }),
    onSuccess: async ({ restored, removed, kept, back, away }) => {
      onClose();
      await refresh();
      const said = [
        words.emailAreAsBefore(restored, removed),
        back > 0 && words.recordThatItRemoved(back),
        kept.length > 0 && words.notRemovedBecauseSomething(kept.map((item) => `${item.name} (${item.because})`).join(', ')),
        away.length > 0 && words.notRestoredBecauseOther(away.map((item) => item.name).join(', ')),
      ];
      notice(`${said.filter(Boolean).join('. ')}.`);
    },
  });
  return (
    <Modal open onClose={onClose} title={words.undoThisRunOver}>
      <p>
        {filled(words.getBackTheirOutcome, {
          changed: counted(run.changed, 'email'),
          takenBack: run.takenBack > 0 && words.recordThatItRemovedAre(run.takenBack),
        })}
      </p>
      <label className="mt-3 flex gap-2">
        <input type="checkbox" checked={rulebook} onChange={(event) => setRulebook(event.target.checked)} />
        {words.putTheRulebookThat}
      </label>
      <Trouble error={undo.error} />
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>{common.cancel}</Button>
        <Button kind="main" disabled={undo.isPending} onClick={() => undo.mutate()}>
          {undo.isPending ? words.undoing : words.undoAndRestoreEmail(run.changed)}
        </Button>
      </div>
    </Modal>
  );
}
