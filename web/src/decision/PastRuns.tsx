import { useState } from 'react';
import { useRefreshAll } from '../api/queries';
import { Button } from '../parts/basics';
import { Form, FormEnd, TickField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import { Modal } from '../parts/Modal';
import { Moment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { counted } from '../parts/numbers';
import type { PastRun } from './usePastRuns';
import { changedWords } from './usePastRuns';
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
  const refresh = useRefreshAll();
  const notice = useNotice();
  const form = useBodyForm('undoDecideRun', {
    values: { rulebook: true },
    input: (body) => ({ id: run.id, body }),
    onDone: async ({ restored, removed, kept, back, away }) => {
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
      <Form form={form} className="mt-3 space-y-3">
        <TickField form={form} name="rulebook" label={words.putTheRulebookThat} />
        <FormEnd form={form} label={words.undoAndRestoreEmail(run.changed)} pending={words.undoing} onCancel={onClose} />
      </Form>
    </Modal>
  );
}
