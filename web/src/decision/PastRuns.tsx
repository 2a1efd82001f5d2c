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

/** The last runs over past mail; each can be undone as one step. */
export function PastRuns({ runs }: { runs: readonly PastRun[] }) {
  const [asking, setAsking] = useState<PastRun | null>(null);
  const shown = runs.filter((run) => run.undoable).slice(0, 3);
  if (shown.length === 0) return null;
  return (
    <section aria-label="Past mail decided again" className="mt-3">
      <ul>
        {shown.map((run) => (
          <li key={run.id} className="flex flex-wrap items-center gap-3 py-0.5 text-sm">
            <span>
              Past mail {spanWords(run)} was decided again, {changedWords(run)}{' '}
              <span className="text-muted">
                · {run.by} · <Moment at={run.at} />
              </span>
            </span>
            <Button kind="quiet" onClick={() => setAsking(run)}>
              Undo …
            </Button>
          </li>
        ))}
      </ul>
      {asking && <Undo run={asking} onClose={() => setAsking(null)} />}
    </section>
  );
}

function spanWords({ since, mailboxes }: PastRun): string {
  const from = since === null ? '' : `since ${since.slice(0, 10)}`;
  return [from, mailboxes.length > 0 ? `of ${counted(mailboxes.length, 'mailbox', 'mailboxes')}` : ''].filter(Boolean).join(' ');
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
        `${counted(restored, 'email')} are as before; ${counted(removed, 'record')} that the run created are gone`,
        back > 0 && `${counted(back, 'record')} that it removed are restored`,
        kept.length > 0 &&
          `Not removed, because something depends on them: ${kept.map((item) => `${item.name} (${item.because})`).join(', ')}`,
        away.length > 0 && `Not restored, because other records now have their addresses: ${away.map((item) => item.name).join(', ')}`,
      ];
      notice(`${said.filter(Boolean).join('. ')}.`);
    },
  });
  return (
    <Modal open onClose={onClose} title="Undo this run over past mail?">
      <p>
        {counted(run.changed, 'email')} get back their outcome, filings, decision and visibility from before. Records that the run created
        go, unless something else has come to depend on them; those are named.
        {run.takenBack > 0 && ` ${counted(run.takenBack, 'record')} that it removed are restored.`}
      </p>
      <label className="mt-3 flex gap-2">
        <input type="checkbox" checked={rulebook} onChange={(event) => setRulebook(event.target.checked)} />
        Put the rulebook that stood before in force again, too
      </label>
      <Trouble error={undo.error} />
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>Cancel</Button>
        <Button kind="main" disabled={undo.isPending} onClick={() => undo.mutate()}>
          {undo.isPending ? 'Undoing …' : `Undo, and restore ${counted(run.changed, 'email')}`}
        </Button>
      </div>
    </Modal>
  );
}
